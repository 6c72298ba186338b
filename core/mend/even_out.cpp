#include "core/mend/even_out.h"

#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

constexpr int kDepth = 44;       ///< px inside over which the profile is followed
constexpr float kFloor = 0.01f;  ///< added before logarithms
constexpr int kFade = 8;         ///< px over which the outer end of the profile fades in
constexpr int kBands = kRimReach + kDepth + 1;
constexpr double kOneColour = 0.035;  ///< spread about the colour curve of a print of one colour
constexpr int kSectors = 24;          ///< around the stain, read apart
constexpr double kVariety = 100;      ///< times the picture's own spread that a step must exceed
constexpr double kNoise = 8, kNoiseGrey = 1.5;  ///< times its noise that a reading must exceed
constexpr double kBrown = 0.72, kLean = 0.25;   ///< brightness a stain takes for each part of blue
constexpr float kBlack = 1.5f / 255, kDarkened = 0.5f, kBleached = 1.25f;
constexpr double kTinted = 0.02;  ///< least colour of a stain for the curve to be of use

using Profile = std::vector<cv::Vec3f>;

/// What the methods below share.
struct Field {
    cv::Mat logs;      ///< CV_32FC3
    cv::Mat distance;  ///< to the outline, positive inside
    cv::Mat known;     ///< CV_32F, 0 under other blemishes
};

Field fieldOf(const Window& w, const Mask& inside) {
    Field f;
    const Size size(w.width(), w.height());
    f.logs.create(size, CV_32FC3);
    f.known.create(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const Vec4& v = w.at(x, y);
            f.logs.at<cv::Vec3f>(y, x) = {std::log(v[0] + kFloor), std::log(v[1] + kFloor),
                                          std::log(v[2] + kFloor)};
            f.known.at<float>(y, x) = w.forbidden(x, y) ? 0.0f : 1.0f;
        }
    cv::Mat in, out;
    cv::distanceTransform(inside, in, cv::DIST_L2, 5);
    cv::distanceTransform(inside == 0, out, cv::DIST_L2, 5);
    f.distance = in - out;  // from pixel to pixel across the outline: half a pixel each
    cv::add(f.distance, -0.5, f.distance, inside);
    cv::add(f.distance, 0.5, f.distance, inside == 0);
    return f;
}

cv::Mat three(const cv::Mat& plane) {
    cv::Mat out;
    cv::merge(std::vector<cv::Mat>(3, plane), out);
    return out;
}

/// Gaussian mean of the pixels that count; `share` receives the weight they had.
cv::Mat maskedBlur(const cv::Mat& values, const cv::Mat& weight, double sigma, cv::Mat& share) {
    cv::Mat sum, out;
    cv::GaussianBlur(weight, share, {}, sigma);
    cv::GaussianBlur(values.mul(three(weight)), sum, {}, sigma);
    cv::divide(sum, three(cv::max(share, 1e-5f)), out);
    return out;
}

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

/// A band's change in brightness and in the two directions of colour.
struct Change {
    std::array<Estimate, 3> part;  ///< mean of the channels; blue - red; green - their mean
};

/// The share of a reading that stands above its own noise over the bands near by (Wiener).
double shareAbove(const std::vector<Change>& bands, size_t k, size_t from, size_t to,
                  double times) {
    constexpr size_t kNear = 3;
    double energy = 0, noise = 0;
    for (size_t j = k < kNear ? 0 : k - kNear; j <= std::min(k + kNear, bands.size() - 1); ++j)
        for (size_t c = from; c < to; ++c) {
            energy += bands[j].part[c].mean * bands[j].part[c].mean;
            noise += bands[j].part[c].error * bands[j].part[c].error;
        }
    return noise > 0 ? std::clamp(1 - times * noise / energy, 0.0, 1.0) : 0.0;
}

/// Change of the logs along the distance, band by band, each read in sectors around the stain, so
/// that what the picture does in some of them neither shifts the mean nor passes for sure.
std::vector<Change> changesOf(const Field& f) {
    cv::Mat share, smooth = maskedBlur(f.logs, f.known, 1.5, share), sx, sy, gx, gy, sure;
    cv::Sobel(f.distance, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(f.distance, gy, CV_32F, 0, 1, 3, 0.125);
    cv::Sobel(smooth, sx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(smooth, sy, CV_32F, 0, 1, 3, 0.125);
    cv::erode(f.known, sure, Mask::ones(9, 9, CV_8U));
    const cv::Moments moments = cv::moments(f.distance > 0, true);
    const double cx = moments.m10 / moments.m00, cy = moments.m01 / moments.m00;
    struct Sector {
        cv::Vec3d sum;
        int count = 0;
    };
    std::vector<std::array<Sector, kSectors>> bands(size_t(kBands), std::array<Sector, kSectors>{});
    for (int y = 0; y < f.distance.rows; ++y)
        for (int x = 0; x < f.distance.cols; ++x) {
            const int band = int(std::floor(f.distance.at<float>(y, x))) + kRimReach;
            if (band < 0 || band + 1 >= kBands || sure.at<float>(y, x) <= 0) continue;
            const double turn = std::atan2(y - cy, x - cx) / (2 * CV_PI) + 0.5;
            auto& s = bands[size_t(band)][size_t(turn * kSectors) % kSectors];
            s.sum += cv::Vec3d(sx.at<cv::Vec3f>(y, x) * gx.at<float>(y, x) +
                               sy.at<cv::Vec3f>(y, x) * gy.at<float>(y, x));
            ++s.count;
        }
    std::vector<Change> out(bands.size());
    for (size_t k = 0; k < bands.size(); ++k) {
        std::array<std::vector<double>, 3> readings;
        for (const auto& s : bands[k]) {
            if (s.count < 3) continue;
            const cv::Vec3d m = s.sum * (1.0 / s.count);
            readings[0].push_back((m[0] + m[1] + m[2]) / 3);
            readings[1].push_back(m[2] - m[0]);
            readings[2].push_back(m[1] - (m[0] + m[2]) / 2);
        }
        if (readings[0].size() < 6) continue;
        for (size_t c = 0; c < 3; ++c) out[k].part[c] = trimmedMean(readings[c]);
    }
    return out;
}

/// The changes added up from outside inwards. What does not stand above its noise is left out, and
/// brightness leans on colour: a stain on paper takes most from blue and least from red.
Profile profileOf(const Field& f) {
    const auto changes = changesOf(f);
    std::vector<double> coloured;
    for (size_t k = 0; k < changes.size(); ++k)
        coloured.push_back(shareAbove(changes, k, 1, 3, kNoise));
    const bool anyColour = *std::max_element(coloured.begin(), coloured.end()) > 0;
    Profile out;
    out.resize(kBands);
    for (size_t k = 0; k + 1 < out.size(); ++k) {
        const auto& [light, blue, green] = changes[k].part;
        const double b = coloured[k] * blue.mean, g = coloured[k] * green.mean;
        double l = 0;
        if (coloured[k] > 0) {
            const double own = 1 / (light.error * light.error + 1e-10),
                         leaning = 1 / std::pow(kLean * std::abs(b) + 1e-5, 2);
            l = (own * light.mean + leaning * kBrown * b) / (own + leaning);
        } else if (!anyColour) {
            l = shareAbove(changes, k, 0, 1, kNoiseGrey) * light.mean;
        }
        const double rb = l - g / 3;  // mean of red and blue
        out[k + 1] = out[k] + cv::Vec3f(float(rb - b / 2), float(rb + g), float(rb + b / 2));
    }
    return out;
}

float fadeAt(float distance) {
    return std::clamp((distance + float(kRimReach)) / float(kFade), 0.0f, 1.0f);
}

template <typename T>
T along(const std::vector<T>& profile, float distance) {
    const float at = std::clamp(distance + float(kRimReach), 0.0f, float(profile.size()) - 1.001f);
    const auto i = size_t(at);
    const float t = at - float(i);
    return profile[i] * (1 - t) + profile[i + 1] * t;
}

cv::Mat profileField(const Field& f, const Profile& profile) {
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            out.at<cv::Vec3f>(y, x) = along(profile, d) * fadeAt(d);
        }
    return out;
}

/// A smooth sheet through values known where `weight` is set, by pyramids of masked means.
cv::Mat sheet(const cv::Mat& values, const cv::Mat& weight) {
    std::vector<cv::Mat> v{values.mul(three(weight))}, w{weight};
    while (std::min(v.back().rows, v.back().cols) > 2) {
        cv::Mat a, b;
        cv::pyrDown(v.back(), a);
        cv::pyrDown(w.back(), b);
        v.push_back(a);
        w.push_back(b);
    }
    cv::Mat out;
    cv::divide(v.back(), three(cv::max(w.back(), 1e-6f)), out);
    for (size_t i = v.size() - 1; i-- > 0;) {
        cv::Mat up, own;
        cv::pyrUp(out, up, v[i].size());
        cv::divide(v[i], three(cv::max(w[i], 1e-6f)), own);
        const cv::Mat k = three(cv::min(w[i], 1.0f));
        out = own.mul(k) + up.mul(cv::Scalar::all(1) - k);
    }
    cv::GaussianBlur(out, out, {}, 3);
    return out;
}

/// What step is left along the outline, spread over the inside.
cv::Mat stepLeft(const Field& f, const cv::Mat& taken) {
    constexpr float kNear = 14, kFar = 40;
    const cv::Mat rest = f.logs - taken;
    const auto strip = [&](float sign) {
        cv::Mat out(f.distance.size(), CV_32F);
        for (int y = 0; y < out.rows; ++y)
            for (int x = 0; x < out.cols; ++x) {
                const float d = sign * f.distance.at<float>(y, x);
                out.at<float>(y, x) = d > kNear && d < kFar ? f.known.at<float>(y, x) : 0.0f;
            }
        return out;
    };
    // A step that the picture's own variety explains is the picture's.
    const cv::Mat strips[] = {strip(1), strip(-1)};
    cv::Mat share[2], mean[2], varied[2];
    for (int i = 0; i < 2; ++i) {
        mean[i] = maskedBlur(rest, strips[i], double(kNear), share[i]);
        varied[i] = maskedBlur(rest.mul(rest), strips[i], double(kNear), share[i]);
        varied[i] -= mean[i].mul(mean[i]);
    }
    const cv::Mat edge = (cv::abs(f.distance) <= 1.5) & (share[0] > 1e-3) & (share[1] > 1e-3);
    cv::Mat weight, step = mean[0] - mean[1], sure;
    const cv::Mat square = step.mul(step);
    cv::divide(square,
               square + kVariety * cv::max(varied[0] + varied[1], 0.0) + cv::Scalar::all(1e-9),
               sure);
    step = step.mul(sure);
    edge.convertTo(weight, CV_32F, 1.0 / 255);
    cv::Mat spread = sheet(step, weight);
    for (int y = 0; y < spread.rows; ++y)
        for (int x = 0; x < spread.cols; ++x) {
            const float t =
                std::clamp((f.distance.at<float>(y, x) + kNear) / (2 * kNear), 0.0f, 1.0f);
            spread.at<cv::Vec3f>(y, x) *= t * t * (3 - 2 * t);
        }
    return spread;
}

/// How blue over red follows red outside the stain: a parabola, if it is one curve.
struct ColourCurve {
    cv::Vec3d fit;
    double spread = 1;
    [[nodiscard]] double at(double red) const { return fit[0] + (fit[1] + fit[2] * red) * red; }
};

ColourCurve colourCurve(const Field& f) {
    cv::Matx33d m = cv::Matx33d::eye() * 1e-6;
    cv::Vec3d v;
    double square = 0, n = 0;
    for (int y = 0; y < f.logs.rows; ++y)
        for (int x = 0; x < f.logs.cols; ++x) {
            if (f.distance.at<float>(y, x) > -kRimReach || f.known.at<float>(y, x) <= 0) continue;
            const auto& l = f.logs.at<cv::Vec3f>(y, x);
            const double red = double(l[0]), colour = double(l[2] - l[0]);
            const cv::Vec3d base(1, red, red * red);
            m += base * base.t();
            v += base * colour;
            square += colour * colour;
            n += 1;
        }
    ColourCurve out;
    if (n < 200) return out;
    out.fit = m.solve(v, cv::DECOMP_CHOLESKY);
    out.spread = std::sqrt(std::max(0.0, (square - out.fit.dot(v)) / n));
    return out;
}

/// Tint by colour: its strength at each place, times its colour, plus the rim that has none.
cv::Mat byColour(const Field& f, const Profile& profile, const cv::Mat& whole,
                 const ColourCurve& curve) {
    cv::Vec3f plate;
    for (size_t k = profile.size() - 8; k < profile.size(); ++k) plate += profile[k] * (1 / 8.0f);
    const float tint = plate[2] - plate[0];
    cv::Mat strength(f.distance.size(), CV_32F, cv::Scalar(1));
    for (int round = 0; round < 3; ++round) {
        cv::Mat departure(f.distance.size(), CV_32FC3, cv::Scalar::all(0)), share;
        for (int y = 0; y < departure.rows; ++y)
            for (int x = 0; x < departure.cols; ++x) {
                const auto& l = f.logs.at<cv::Vec3f>(y, x);
                const double red = double(l[0] - strength.at<float>(y, x) * plate[0]);
                departure.at<cv::Vec3f>(y, x)[0] =
                    float((double(l[2] - l[0]) - curve.at(red)) / double(tint));
            }
        const cv::Mat soft = maskedBlur(departure, f.known, 4, share);
        cv::extractChannel(soft, strength, 0);
        strength = cv::min(cv::max(strength, 0.0f), 3.0f);
    }
    std::vector<std::vector<float>> rests(size_t(kBands), std::vector<float>{});
    cv::Mat out(f.distance.size(), CV_32FC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            const cv::Vec3f own = plate * strength.at<float>(y, x);
            const cv::Vec3f rest = whole.at<cv::Vec3f>(y, x) - own;
            const int band = int(std::lround(d)) + kRimReach;
            if (band >= 0 && band < kBands)
                rests[size_t(band)].push_back((rest[0] + rest[1] + rest[2]) / 3);
            out.at<cv::Vec3f>(y, x) = d > -kRimReach ? own : cv::Vec3f();
        }
    std::vector<float> rim(size_t(kBands), 0.0f);
    for (size_t k = 0; k < rim.size(); ++k)
        if (auto& r = rests[k]; !r.empty()) {
            std::nth_element(r.begin(), r.begin() + long(r.size() / 2), r.end());
            rim[k] = r[r.size() / 2];
        }
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = f.distance.at<float>(y, x);
            if (d < kDepth) out.at<cv::Vec3f>(y, x) += cv::Vec3f::all(along(rim, d) * fadeAt(d));
        }
    return out;
}

}  // namespace

Result<Stain> measureStain(const Window& w, const Mask& inside, std::stop_token stop) {
    const Field f = fieldOf(w, inside);
    if (cv::countNonZero((f.distance < -2) & (f.distance > -40) & (f.known > 0)) < 200)
        return fail(Error::Kind::BadSetting, "there is too little around the area to compare with",
                    {}, "Outline less of the picture, or use Rebuild.");
    const Profile profile = profileOf(f);
    if (stop.stop_requested()) return cancelled();
    const cv::Mat whole = profileField(f, profile);
    const ColourCurve curve = colourCurve(f);
    const cv::Vec3f& plate = profile.back();
    const bool oneColour =
        curve.spread < kOneColour && std::abs(double(plate[2] - plate[0])) > kTinted;
    const cv::Mat tint =
        oneColour ? byColour(f, profile, whole, curve) : cv::Mat(whole + stepLeft(f, whole));
    if (stop.stop_requested()) return cancelled();
    Stain out;
    cv::exp(tint, out.gain);
    // Black or white that the stain made so, not the picture.
    out.lost = Mask(inside.size(), CV_8U, cv::Scalar(0));
    for (int y = 0; y < inside.rows; ++y)
        for (int x = 0; x < inside.cols; ++x) {
            if (!inside.at<uchar>(y, x)) continue;
            const Vec4& v = w.at(x, y);
            const auto& g = out.gain.at<cv::Vec3f>(y, x);
            const float through = (g[0] + g[1] + g[2]) / 3;
            const bool black =
                std::max({v[0], v[1], v[2]}) < kBlack &&
                through<kDarkened, white = std::min({v[0], v[1], v[2]})> 1 - kBlack &&
                through > kBleached;
            if (black || white) out.lost.at<uchar>(y, x) = 255;
        }
    return out;
}

}  // namespace gq::mend
