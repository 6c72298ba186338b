#include "core/find/fold.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

namespace gq::find {
namespace {

constexpr int kParts = 8;            ///< the line is looked at in
constexpr float kShortest = 300;     ///< px; shorter lines tell too little
constexpr float kLeast = 0.02f;      ///< of the tones' range
constexpr float kMost = 0.2f;        ///< more is an edge of the picture
constexpr float kDeviations = 5.0f;  ///< of the parts' own spread that the mean must exceed

/// A straight line through a region.
struct Course {
    PointF middle, along, across;
    float from = 0, to = 0;  ///< px along it
};

Course courseOf(const Region& line) {
    std::vector<Point> places;
    cv::findNonZero(line.mask, places);
    cv::Vec4f fit;
    cv::fitLine(places, fit, cv::DIST_L2, 0, 0.01, 0.01);
    Course out{{fit[2], fit[3]}, {fit[0], fit[1]}, {-fit[1], fit[0]}};
    for (const Point& p : places) {
        const float s = (PointF(p) - out.middle).dot(out.along);
        out.from = std::min(out.from, s);
        out.to = std::max(out.to, s);
    }
    out.middle += PointF(line.box.tl());
    return out;
}

/// Mean tone from `least` to `most` px across the line; nothing outside the picture.
std::optional<float> toneBeside(const ImageF& tone, const Course& c, float s, float least,
                                float most) {
    float sum = 0;
    int n = 0;
    for (float d = least; d <= most; d += 1) {
        const Point p = c.middle + c.along * s + c.across * d;
        if (p.x < 0 || p.y < 0 || p.x >= tone.cols || p.y >= tone.rows) continue;
        sum += tone.at<float>(p);
        ++n;
    }
    return n ? std::optional(sum / float(n)) : std::nullopt;
}

/// By how much the sides differ within `reach` to twice that, over farther out, a value a part.
std::vector<float> differences(const ImageF& tone, const Course& c, float reach) {
    std::vector<float> out;
    for (int part = 0; part < kParts; ++part) {
        const float length = (c.to - c.from) / kParts, start = c.from + length * float(part);
        double sum = 0;
        int n = 0;
        for (float s = start; s < start + length; s += 4) {
            const auto a = toneBeside(tone, c, s, reach, 2 * reach),
                       b = toneBeside(tone, c, s, -2 * reach, -reach),
                       farA = toneBeside(tone, c, s, 4 * reach, 5 * reach),
                       farB = toneBeside(tone, c, s, -5 * reach, -4 * reach);
            if (!a || !b || !farA || !farB) continue;
            sum += double(*a - *b - (*farA - *farB));
            ++n;
        }
        if (n) out.push_back(float(sum / n));
    }
    return out;
}

/// All parts but the two that stand out say the same: other wear or an edge may cross a fold.
bool agree(std::vector<float> parts) {
    if (parts.size() < kParts) return false;
    std::sort(parts.begin(), parts.end());
    constexpr int kTrusted = kParts - 2;
    float mean = 0, square = 0;
    for (int i = 1; i <= kTrusted; ++i) mean += parts[size_t(i)] / kTrusted;
    for (int i = 1; i <= kTrusted; ++i) {
        const float p = parts[size_t(i)];
        if ((p > 0) != (mean > 0)) return false;
        square += (p - mean) * (p - mean);
    }
    const float deviation = std::sqrt(square / ((kTrusted - 1) * kTrusted)) + 1e-4f;
    const float change = std::abs(mean);
    return change > kLeast && change < kMost && change > kDeviations * deviation;
}

}  // namespace

bool foldedAlong(const ImageF& tone, const Region& line) {
    const Course course = courseOf(line);
    if (course.to - course.from < kShortest) return false;
    return agree(differences(tone, course, 4)) || agree(differences(tone, course, 8));
}

}  // namespace gq::find
