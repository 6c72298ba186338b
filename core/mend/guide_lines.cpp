#include "core/mend/guide_lines.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/mend/hole_exits.h"

namespace gq::mend {
namespace {

constexpr float kBeyond = 24;   ///< px that a guide is prolonged by
constexpr float kDrawn = 5;     ///< px; deviation of a hand that draws
constexpr float kStep = 0.02f;  ///< least step of colour that is an edge, 0..1

using Line = std::vector<PointF>;

float lengthOf(const PointF& v) {
    return std::hypot(v.x, v.y);
}

/// Where a parabola through three heights, one apart, is highest; from the middle one.
float crest(float before, float at, float after) {
    const float bend = before - 2 * at + after;
    return bend < 0 ? std::clamp(0.5f * (before - after) / bend, -0.5f, 0.5f) : 0;
}

/// How far to the left of the line the edge lies that it means, outside its two exits.
std::optional<std::pair<float, float>> asides(const std::vector<Vec4>& first,
                                              const std::vector<Vec4>& last) {
    const int n = int(std::min(first.size(), last.size()));
    const auto height = [&](int a, int b) {
        if (a < 0 || b < 0 || a >= n || b >= n) return 0.0f;
        const float x = float(a - kAside), y = float(b - kAside);
        return std::exp(-0.5f * (x * x + y * y) / (kDrawn * kDrawn)) *
               alike(first[size_t(a)], last[size_t(b)]);
    };
    float most = kStep * kStep;
    Point best(-1, -1);
    for (int a = 0; a < n; ++a)
        for (int b = 0; b < n; ++b)
            if (const float v = height(a, b); v > most) most = v, best = {a, b};
    if (best.x < 0) return std::nullopt;
    const auto [a, b] = std::pair(best.x, best.y);
    return std::pair(float(a - kAside) + crest(height(a - 1, b), most, height(a + 1, b)),
                     float(b - kAside) + crest(height(a, b - 1), most, height(a, b + 1)));
}

/// The line moved onto the edge it means; as it was drawn where there is none.
Line ontoEdge(const Line& line, const Level& level) {
    const auto exits = exitsOf(line, level.hole);
    if (!exits) return line;
    const auto& [first, last] = *exits;
    const auto leftOf = [](const PointF& way) { return PointF(way.y, -way.x); };
    const auto aside = asides(stepsAcross(first, leftOf(first.out * -1.0f), level),
                              stepsAcross(last, leftOf(last.out), level));
    if (!aside) return line;
    // What was measured lies outside the exits.
    constexpr float kLookedAt = 0.5f * (kNearest + kFarthest);
    const float from = first.along - kLookedAt, to = last.along + kLookedAt;
    Line out = line;
    float along = 0;
    for (size_t i = 0; i < line.size(); ++i) {
        const PointF way = i + 1 < line.size() ? line[i + 1] - line[i] : line[i] - line[i - 1];
        const float length = lengthOf(way), share = (along - from) / (to - from);
        if (length > 0)
            out[i] +=
                leftOf(way) * ((aside->first + share * (aside->second - aside->first)) / length);
        along += length;
    }
    return out;
}

Line prolonged(Line line) {
    const auto beyond = [](const PointF& before, const PointF& end) {
        const PointF way = end - before;
        const float length = lengthOf(way);
        return length > 0 ? end + way * (kBeyond / length) : end;
    };
    line.front() = beyond(line[1], line.front());
    line.back() = beyond(line[line.size() - 2], line.back());
    return line;
}

/// Marks the pixels near a line with its number and their distance from it.
void lay(const Line& line, uchar number, Level& level) {
    const Size size = level.guide.size();
    ImageF nearest(size, CV_32F, cv::Scalar(kGuideWidth));
    for (size_t i = 1; i < line.size(); ++i) {
        const PointF from = line[i - 1], way = line[i] - from;
        const float length = lengthOf(way);
        if (length == 0) continue;
        const Rect box = grown(Rect(cv::Rect2f(from, line[i])), int(kGuideWidth) + 2, size);
        for (int y = box.y; y < box.y + box.height; ++y)
            for (int x = box.x; x < box.x + box.width; ++x) {
                const PointF to = PointF(float(x) + 0.5f, float(y) + 0.5f) - from;
                const float along = std::clamp(to.dot(way) / length, 0.0f, length);
                const float far = lengthOf(to - way * (along / length));
                if (far >= nearest.at<float>(y, x)) continue;
                nearest.at<float>(y, x) = far;
                level.guide.at<uchar>(y, x) = number;
                level.beside.at<float>(y, x) = std::copysign(far, float(way.cross(to)));
            }
    }
}

}  // namespace

void layGuides(Level& level, const std::vector<Line>& lines) {
    for (size_t i = 0; i < lines.size() && i < 255; ++i)
        if (lines[i].size() >= 2) {
            level.lines.push_back(prolonged(ontoEdge(lines[i], level)));
            lay(level.lines.back(), uchar(i + 1), level);
        }
}

}  // namespace gq::mend
