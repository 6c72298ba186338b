#include "core/find/line_features.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/broad_marks.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr int kReach = 16;             ///< px across
constexpr int kPart = 16, kEvery = 2;  ///< px along
constexpr float kLeastContrast = 0.01f;

/// Where an upright line lies, row by row.
struct Course {
    int from = 0, to = 0;   ///< rows
    std::vector<float> at;  ///< columns
    float slope = 0, start = 0, wander = 0;

    explicit Course(const Region& line) : from(line.box.y), to(line.box.br().y) {
        std::vector<float> seen;
        for (int y = 0; y < line.mask.rows; ++y) {
            const auto* m = line.mask.ptr<uchar>(y);
            float sum = 0, n = 0;
            for (int x = 0; x < line.mask.cols; ++x)
                if (m[x]) sum += float(x), ++n;
            seen.push_back(n > 0          ? sum / n
                           : seen.empty() ? float(line.mask.cols) / 2
                                          : seen.back());
        }
        cv::Mat_<float> smooth;
        cv::blur(cv::Mat_<float>(int(seen.size()), 1, seen.data()), smooth, {1, 17}, {-1, -1},
                 cv::BORDER_REPLICATE);
        double sx = 0, sy = 0, sxx = 0, sxy = 0;
        const double n = double(seen.size());
        for (int y = 0; y < smooth.rows; ++y) {
            at.push_back(smooth(y) + float(line.box.x));
            sx += y, sy += double(at.back()), sxx += double(y) * y, sxy += y * double(at.back());
        }
        slope = float((n * sxy - sx * sy) / std::max(1.0, n * sxx - sx * sx));
        start = float((sy - double(slope) * sx) / n);
        double square = 0;
        for (int y = 0; y < smooth.rows; ++y) {
            const double off = double(at[size_t(y)] - start - slope * float(y));
            square += off * off;
        }
        wander = float(std::sqrt(square / n));
    }
    [[nodiscard]] float column(int y) const {
        return y < from || y >= to ? start + slope * float(y - from) : at[size_t(y - from)];
    }
};

/// Tones across a line, the mean of some rows: `kReach` px to either side.
struct Profile {
    std::array<float, size_t(2 * kReach + 1)> tones{};
    [[nodiscard]] float at(int d) const { return tones[size_t(d + kReach)]; }
    [[nodiscard]] float mean(int from, int to) const {
        float sum = 0;
        for (int d = from; d <= to; ++d) sum += at(d);
        return sum / float(to - from + 1);
    }
    [[nodiscard]] float line() const { return mean(-1, 1); }
    [[nodiscard]] float left() const { return mean(-8, -4); }
    [[nodiscard]] float right() const { return mean(4, 8); }
    [[nodiscard]] float sides() const { return (left() + right()) / 2; }
    [[nodiscard]] float contrast() const { return line() - sides(); }
    [[nodiscard]] float step() const { return right() - left(); }
    [[nodiscard]] float farStep() const { return mean(12, 16) - mean(-16, -12); }
};

/// Nothing where the rows or the columns leave the picture.
bool profileOf(const ImageF& tone, const Course& course, int from, int to, Profile& out) {
    out.tones.fill(0);
    int n = 0;
    for (int y = from; y < to; y += kEvery) {
        if (y < 0 || y >= tone.rows) return false;
        const float x = course.column(y);
        const int whole = int(std::floor(x));
        const float part = x - float(whole);
        const auto* row = tone.ptr<float>(y);
        const auto at = [&](int c) { return row[std::clamp(c, 0, tone.cols - 1)]; };
        if (whole < 0 || whole >= tone.cols) return false;
        for (int d = -kReach; d <= kReach; ++d)
            out.tones[size_t(d + kReach)] +=
                at(whole + d) + part * (at(whole + d + 1) - at(whole + d));
        ++n;
    }
    for (auto& t : out.tones) t /= float(std::max(1, n));
    return n > 0;
}

std::vector<float> ofEach(const std::vector<Profile>& parts, float (Profile::*value)() const) {
    std::vector<float> out;
    for (const auto& p : parts) out.push_back((p.*value)());
    return out;
}

struct Spread {
    float mean = 0, deviation = 0;
    explicit Spread(const std::vector<float>& values) {
        double sum = 0, square = 0;
        for (const float v : values) sum += double(v), square += double(v) * double(v);
        const double n = std::max<double>(1, double(values.size()));
        mean = float(sum / n);
        deviation = float(std::sqrt(std::max(0.0, square / n - sum / n * sum / n)));
    }
};

/// A line's own ridge and those beside it.
void describeRidges(const LineField& field, const Course& course, LineFeatures& f) {
    std::vector<float> own, beside;
    for (int y = course.from; y < course.to; y += 2 * field.pool) {
        const auto* row = field.ridges.ptr<float>(std::min(field.ridges.rows - 1, y / field.pool));
        const int x = int(std::lround(course.column(y)));
        float best = -10;
        for (int d = -1; d <= 1; ++d)
            best = std::max(best, row[std::clamp(x + d, 0, field.ridges.cols - 1)]);
        own.push_back(best);
        for (int d = 10; d <= 40; d += 3)
            for (const int at : {x - d, x + d})
                if (at >= 0 && at < field.ridges.cols) beside.push_back(row[at]);
    }
    const Spread others(beside), its(own);
    f[LineStrength] = its.mean;
    f[LineWeakest] = quantile(own, 0.1);
    f[LineBeside] = others.deviation;
    f[LineStands] = (its.mean - others.mean) / (others.deviation + 0.05f);
}

void describeParts(const std::vector<Profile>& parts, float contrast, LineFeatures& f) {
    const auto contrasts = ofEach(parts, &Profile::contrast), steps = ofEach(parts, &Profile::step),
               farSteps = ofEach(parts, &Profile::farStep), lines = ofEach(parts, &Profile::line),
               sides = ofEach(parts, &Profile::sides);
    const auto n = float(parts.size());
    float kept = 0, above = 0, stepSize = 0, sideChange = 0;
    std::vector<float> folds;
    double covariance = 0, variance = 0;
    const Spread line(lines), side(sides);
    for (size_t i = 0; i < parts.size(); ++i) {
        kept += contrasts[i] > contrast / 2 ? 1 : 0;
        above += lines[i] > std::max(parts[i].left(), parts[i].right()) ? 1 : 0;
        stepSize += std::abs(steps[i]);
        folds.push_back(steps[i] - farSteps[i]);
        if (i > 0) sideChange += std::abs(sides[i] - sides[i - 1]);
        covariance += double((lines[i] - line.mean) * (sides[i] - side.mean));
        variance += double((sides[i] - side.mean) * (sides[i] - side.mean));
    }
    const double slope = (covariance + 1e-4) / (variance + 1e-4);
    double left = 0;
    for (size_t i = 0; i < parts.size(); ++i) {
        const double off = double(lines[i] - line.mean) - slope * double(sides[i] - side.mean);
        left += off * off;
    }
    const Spread fold(folds);
    f[LineUneven] = Spread(contrasts).deviation / contrast;
    f[LineKept] = kept / n;
    f[LineAboveBoth] = above / n;
    f[LineRegressed] = float(slope);
    f[LineUnexplained] = float(std::sqrt(left / double(n))) / contrast;
    f[SidesDiffer] = std::abs(medianOf(steps)) / contrast;
    f[SidesDifferPart] = stepSize / n / contrast;
    f[FarDiffer] = std::abs(medianOf(farSteps)) / contrast;
    f[SidesOverFar] = std::abs(medianOf(folds)) / contrast;
    f[FoldAgrees] = std::abs(fold.mean) / (fold.deviation / std::sqrt(n) + 1e-3f);
    f[SidesRough] = sideChange / std::max(1.0f, n - 1) / contrast;
    f[LineTone] = line.mean;
    f[SidesTone] = side.mean;
}

/// What the mean of all parts looks like across.
void describeAcross(const std::vector<Profile>& parts, float contrast, LineFeatures& f) {
    Profile mean;
    for (const auto& p : parts)
        for (size_t i = 0; i < mean.tones.size(); ++i)
            mean.tones[i] += p.tones[i] / float(parts.size());
    const float sides = mean.sides();
    const auto rise = [&](int d) { return ((mean.at(d) + mean.at(-d)) / 2 - sides) / contrast; };
    f[LineBreadth] = rise(2);
    f[LineFoot] = rise(3);
    f[LineLopsided] = std::abs(mean.at(2) - mean.at(-2)) / contrast;
    float lowest = sides;
    for (int d = 3; d <= 7; ++d) lowest = std::min({lowest, mean.at(d), mean.at(-d)});
    f[LineHollow] = (sides - lowest) / contrast;
}

void describeColour(const LineField& field, const Course& course, float contrast, LineFeatures& f) {
    const int channels = field.pixels.channels();
    std::array<double, 3> line{}, sides{};
    int n = 0;
    for (int y = course.from; y < course.to; y += kEvery) {
        const int x = int(std::lround(course.column(y)));
        if (x < 6 || x >= field.pixels.cols - 6) continue;
        const auto* row = field.pixels.ptr<ushort>(y);
        for (int c = 0; c < channels; ++c) {
            const auto at = [&](int d) { return double(row[(x + d) * channels + c]) / 65535; };
            line[size_t(c)] += at(0);
            sides[size_t(c)] += (at(-6) + at(-5) + at(5) + at(6)) / 4;
        }
        ++n;
    }
    if (n == 0 || channels < 3) return;
    std::array<double, 3> rises{};
    for (size_t c = 0; c < 3; ++c) line[c] /= n, rises[c] = line[c] - sides[c] / n;
    const auto [least, most] = std::ranges::minmax(rises);
    const auto [darkest, lightest] = std::ranges::minmax(line);
    f[LineColour] = float(most - least) / contrast;
    f[LineHue] = float(lightest - darkest);
}

void describeEnds(const LineField& field, const Course& course, float contrast, LineFeatures& f) {
    constexpr int kBeyond = 80, kGap = 8;
    for (const bool below : {false, true}) {
        const int from = below ? course.to + kGap : course.from - kGap - kBeyond;
        Profile beyond;
        if (!profileOf(field.tone, course, from, from + kBeyond, beyond)) {
            f[LineEndsAtEdge] += 1;
            continue;
        }
        f[LineGoesOn] = std::max(f[LineGoesOn], beyond.contrast() / contrast);
        f[EdgeGoesOn] = std::max(f[EdgeGoesOn], std::abs(beyond.step()) / contrast);
    }
}

}  // namespace

LineFeatures featuresOf(const LineField& field, const Region& line) {
    LineFeatures f{};
    const Course course(line);
    std::vector<Profile> parts;
    for (int y = course.from; y + kPart <= course.to; y += kPart) {
        Profile part;
        if (profileOf(field.tone, course, y, y + kPart, part)) parts.push_back(part);
    }
    f[LineDark] = field.dark ? 1 : 0;
    f[LineLength] = std::log(float(line.box.height));
    f[LineOfPicture] = float(line.box.height) / float(field.tone.rows);
    f[LineWanders] = course.wander;
    f[LineSlope] = std::abs(course.slope);
    if (parts.empty()) return f;
    f[LineContrast] = medianOf(ofEach(parts, &Profile::contrast));
    const float contrast = std::max(f[LineContrast], kLeastContrast);
    describeRidges(field, course, f);
    describeParts(parts, contrast, f);
    describeAcross(parts, contrast, f);
    describeColour(field, course, contrast, f);
    describeEnds(field, course, contrast, f);
    return f;
}

}  // namespace gq::find
