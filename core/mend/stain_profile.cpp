#include "core/mend/stain_profile.h"

#include <array>
#include <cmath>
#include <numeric>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

constexpr int kDepth = 44;  ///< px inside over which the profile is followed
constexpr int kBands = kRimReach + kDepth + 1;
constexpr size_t kSectors = 24;                ///< around the stain, read apart
constexpr size_t kFewest = 6;                  ///< readings that make a mean
constexpr double kNoise = 4;                   ///< times its noise that colour must exceed
constexpr double kBrown = 0.72, kLean = 0.25;  ///< brightness a stain takes for each part of blue
constexpr double kOuter = 10, kInner = 12;     ///< px from the outline at which steps are sought
constexpr int kSteps = 8;                      ///< of brightness
constexpr double kAgreed = 16;                 ///< evidence that a step needs
constexpr double kAgreedColoured = 45;         ///< and that much more in a coloured stain
constexpr double kColoured = 0.1;              ///< change of blue over red of a coloured stain
constexpr float kFlattest = 0.2f;              ///< steepness of the distance, squared
constexpr double kWide = 4;                    ///< px of a soft stain's edge
constexpr double kFine = 0.004;                ///< error of a step on the most even paper
constexpr double kTextured = 0.1;              ///< error of comparing textures
constexpr double kEnds = 0.02;                 ///< share of a profile's changes beyond its edge
constexpr size_t kBeyond = 4;                  ///< bands that the edge is taken wider
constexpr double kMissed = 0.1;                ///< share of a step that bands miss, as a deviation

/// A number with its standard error.
struct Estimate {
    double mean = 0, error = 0;
};

/// Trimmed mean (a quarter off each end) of independent readings.
Estimate trimmedMean(std::vector<double> readings) {
    std::sort(readings.begin(), readings.end());
    const size_t cut = readings.size() / 4;
    double sum = 0, square = 0;
    const auto n = double(readings.size() - 2 * cut);
    for (size_t i = cut; i < readings.size() - cut; ++i) {
        sum += readings[i];
        square += readings[i] * readings[i];
    }
    const double mean = sum / n, spread = std::sqrt(std::max(0.0, square / n - mean * mean));
    return {mean, 2.0 * spread / std::sqrt(n)};  // trimming hides about half of the spread
}

/// The change of brightness and of the two directions of colour (blue - red; green - their mean)
/// from each band of 1 px to the next, in one sector around the stain.
struct Sector {
    std::array<cv::Vec3f, kBands> change{};
    std::array<int, kBands> count{};        ///< pixels read
    std::array<float, kBands> steepness{};  ///< of the distance, squared, added up
};
using Sectors = std::array<Sector, kSectors>;

cv::Vec3f partsOf(const cv::Vec3f& v) {
    return {(v[0] + v[1] + v[2]) / 3, v[2] - v[0], v[1] - (v[0] + v[2]) / 2};
}

cv::Vec3f channelsOf(const cv::Vec3f& parts) {
    const float redAndBlue = parts[0] - parts[2] / 3;  // their mean
    return {redAndBlue - parts[1] / 2, redAndBlue + parts[2], redAndBlue + parts[1] / 2};
}

Sectors sectorsOf(const StainField& f) {
    cv::Mat share, smooth = maskedBlur(f.logs, f.known, 1.5, share), sx, sy, gx, gy, sure;
    cv::Sobel(f.distance, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(f.distance, gy, CV_32F, 0, 1, 3, 0.125);
    cv::Sobel(smooth, sx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(smooth, sy, CV_32F, 0, 1, 3, 0.125);
    cv::erode(f.known, sure, Mask::ones(9, 9, CV_8U));
    Sectors out;
    for (int y = 0; y < f.distance.rows; ++y)
        for (int x = 0; x < f.distance.cols; ++x) {
            const int band = int(std::floor(f.distance.at<float>(y, x))) + kRimReach;
            if (band < 0 || band + 1 >= kBands || sure.at<float>(y, x) <= 0) continue;
            auto& s = out[f.sectorOf(x, y, kSectors)];
            const float dx = gx.at<float>(y, x), dy = gy.at<float>(y, x);
            s.change[size_t(band)] += sx.at<cv::Vec3f>(y, x) * dx + sy.at<cv::Vec3f>(y, x) * dy;
            s.steepness[size_t(band)] += dx * dx + dy * dy;
            ++s.count[size_t(band)];
        }
    for (auto& s : out)
        for (size_t k = 0; k < kBands; ++k)
            // Least squares: along a frayed outline the distance is less steep than 1.
            if (s.count[k] > 0)
                s.change[k] = partsOf(
                    s.change[k] * (1 / std::max(s.steepness[k], kFlattest * float(s.count[k]))));
    return out;
}

/// A soft step of brightness.
struct Step {
    double at = 0, width = 1;  ///< bands; sigma
    Estimate height;

    [[nodiscard]] double slope(size_t band) const {
        const double u = (double(band) - at) / width;
        return std::exp(-0.5 * u * u) / (width * 2.5066);
    }
    [[nodiscard]] size_t from() const { return size_t(std::max(0.0, at - 3 * width)); }
    [[nodiscard]] size_t to() const { return size_t(std::min(double(kBands), at + 3 * width + 1)); }
    /// How many times its error it is high, squared; pictures have wide steps of their own.
    [[nodiscard]] double evidence() const {
        const double square = height.mean * height.mean;
        return square / (height.error * height.error + kFine * kFine) /
               (1 + width * width / (kWide * kWide));
    }
};

/// How high a step of this place and width is, read in each sector.
void readHeight(const Sectors& sectors, Step& step) {
    std::vector<double> readings;
    double whole = 0;
    for (size_t k = step.from(); k < step.to(); ++k) whole += std::pow(step.slope(k), 2);
    for (const auto& s : sectors) {
        double energy = 0, sum = 0;
        for (size_t k = step.from(); k < step.to(); ++k)
            if (s.count[k] >= 3) {
                const double b = step.slope(k);
                sum += double(s.change[k][0]) * b;
                energy += b * b;
            }
        if (energy > 0.7 * whole) readings.push_back(sum / energy);
    }
    step.height = readings.size() < kFewest ? Estimate{} : trimmedMean(readings);
}

/// The plainest step that the sectors agree on.
Step plainestStep(const Sectors& sectors) {
    Step best;
    double most = 0;
    for (const double width : {1.5, 2.5, 4.0, 6.5, 10.0})
        for (double at = kRimReach - kOuter; at < kRimReach + kInner; at += 1) {
            Step step{at, width, {}};
            readHeight(sectors, step);
            if (const double e = step.evidence(); e > most) most = e, best = step;
        }
    return best;
}

using Change = std::array<Estimate, 3>;

std::vector<Change> changesOf(const Sectors& sectors) {
    std::vector<Change> out(size_t(kBands), Change{});
    for (size_t k = 0; k < out.size(); ++k) {
        std::array<std::vector<double>, 3> readings;
        for (const auto& s : sectors)
            for (int c = 0; c < 3; ++c)
                if (s.count[k] >= 3) readings[size_t(c)].push_back(double(s.change[k][c]));
        if (readings[0].size() < kFewest) continue;
        for (size_t c = 0; c < 3; ++c) out[k][c] = trimmedMean(readings[c]);
    }
    return out;
}

/// The share of a reading that stands above its own noise over the bands near by (Wiener).
float shareAbove(const std::vector<Change>& bands, size_t k, size_t from, size_t to) {
    constexpr size_t kNear = 3;
    double energy = 0, noise = 0;
    for (size_t j = k < kNear ? 0 : k - kNear; j <= std::min(k + kNear, bands.size() - 1); ++j)
        for (size_t c = from; c < to; ++c) {
            energy += bands[j][c].mean * bands[j][c].mean;
            noise += bands[j][c].error * bands[j][c].error;
        }
    return noise > 0 ? float(std::clamp(1 - kNoise * noise / energy, 0.0, 1.0)) : 0.0f;
}

/// Log of how much steeper the picture is inside than outside, beside the outline.
Estimate steepening(const StainField& f) {
    constexpr float kNear = 8, kFar = 40;
    cv::Mat share, smooth = maskedBlur(f.logs, f.known, 1.0, share), sx, sy;
    cv::Sobel(smooth, sx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(smooth, sy, CV_32F, 0, 1, 3, 0.125);
    std::array<std::array<std::vector<float>, 2>, kSectors> steep;
    for (int y = 0; y < f.distance.rows; ++y)
        for (int x = 0; x < f.distance.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            if (std::abs(d) < kNear || std::abs(d) > kFar || f.known.at<float>(y, x) <= 0) continue;
            steep[f.sectorOf(x, y, kSectors)][d > 0].push_back(
                float(cv::norm(sx.at<cv::Vec3f>(y, x)) + cv::norm(sy.at<cv::Vec3f>(y, x))));
        }
    const auto median = [](std::vector<float>& v) {
        std::nth_element(v.begin(), v.begin() + long(v.size() / 2), v.end());
        return v[v.size() / 2] + 1e-4f;
    };
    std::vector<double> readings;
    for (auto& [outside, inside] : steep)
        if (outside.size() >= 50 && inside.size() >= 50)
            readings.push_back(double(std::log(median(inside) / median(outside))));
    return readings.size() < kFewest ? Estimate{} : trimmedMean(readings);
}

/// Where bands disagree on a step's place each of them misses some of it; what is left over the
/// whole edge, sector by sector, tells how much. `rest`: what the slope leaves in the sectors.
void addMissed(const Sectors& rest, StainProfile& slope) {
    std::vector<double> light(slope.size());
    for (size_t k = 0; k < slope.size(); ++k) light[k] = double(partsOf(slope[k])[0]);
    const double step = std::accumulate(light.begin(), light.end(), 0.0);
    for (double& l : light) l = std::abs(l);
    const double whole = std::accumulate(light.begin(), light.end(), 0.0);
    if (whole <= 0) return;
    size_t from = 0, to = 0;
    double passed = 0;
    for (size_t k = 0; k < light.size(); ++k) {
        if (passed <= kEnds * whole) from = k;
        if (passed < (1 - kEnds) * whole) to = k + 1;
        passed += light[k];
    }
    from -= std::min(from, kBeyond);
    to = std::min(to + kBeyond, light.size());
    std::vector<double> readings;
    for (const auto& s : rest) {
        double sum = 0, read = 0;
        for (size_t k = from; k < to; ++k)
            if (s.count[k] >= 3) sum += double(s.change[k][0]), ++read;
        if (read > 0.7 * double(to - from)) readings.push_back(sum * double(to - from) / read);
    }
    if (readings.size() < kFewest) return;
    const Estimate missed = trimmedMean(readings);
    const double noise = missed.error * missed.error + 1e-8, usual = std::pow(kMissed * step, 2),
                 added = missed.mean * usual / (usual + noise);
    for (size_t k = 0; k < slope.size(); ++k)
        slope[k] += cv::Vec3f::all(float(added * light[k] / whole));
}

/// The most that blue over red changes by.
double mostColour(const StainProfile& slope) {
    double most = 0, sum = 0;
    for (const auto& v : slope) {
        sum += double(v[2] - v[0]);
        most = std::max(most, std::abs(sum));
    }
    return most;
}

}  // namespace

StainProfile stainProfile(const StainField& f, double colour) {
    Sectors sectors = sectorsOf(f);
    const auto changes = changesOf(sectors);
    StainProfile slope(kBands, cv::Vec3f());
    for (size_t k = 0; k < changes.size(); ++k) {
        const float coloured = shareAbove(changes, k, 1, 3);
        const auto& [light, blue, green] = changes[k];
        const float b = coloured * float(blue.mean), g = coloured * float(green.mean);
        double l = 0;
        if (coloured > 0 && !f.faded) {
            const double own = 1 / (light.error * light.error + 1e-10),
                         leaning = 1 / std::pow(kLean * std::abs(double(b)) + 1e-5, 2);
            l = (own * light.mean + leaning * kBrown * double(b)) / (own + leaning);
        }
        slope[k] = channelsOf({float(l), b, g});
        for (auto& s : sectors) s.change[k][0] -= float(l);
    }
    // A coloured stain's brightness is known from its colour; what else is read needs more proof.
    const double coloured = std::min(1.0, std::max(colour, mostColour(slope)) / kColoured);
    const double needed = kAgreed + kAgreedColoured * coloured * coloured;
    for (int round = 0; round < kSteps; ++round) {
        const Step step = plainestStep(sectors);
        if (step.evidence() < needed) break;
        for (size_t k = step.from(); k < step.to(); ++k) {
            const auto b = float(step.slope(k) * step.height.mean);
            slope[k] += cv::Vec3f::all(b);
            for (auto& s : sectors) s.change[k][0] -= b;
        }
    }
    addMissed(sectors, slope);
    StainProfile out(kBands, cv::Vec3f());
    std::partial_sum(slope.begin(), slope.end() - 1, out.begin() + 1);
    return out;
}

bool looksPale(const StainField& f) {
    const Step step = plainestStep(sectorsOf(f));
    return step.height.mean > 0 && step.evidence() > kAgreed;
}

double plausibility(const StainField& f) {
    const Estimate r = steepening(f);
    return std::log(plainestStep(sectorsOf(f)).evidence() + 1) -
           0.5 * r.mean * r.mean / (r.error * r.error + kTextured * kTextured);
}

}  // namespace gq::mend
