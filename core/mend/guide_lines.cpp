#include "core/mend/guide_lines.h"

#include <algorithm>
#include <cmath>
#include <optional>

namespace gq::mend {
namespace {

constexpr float kGuideWidth = 6;             ///< px to either side at full size
constexpr float kBeyond = 24;                ///< px that a guide is prolonged by
constexpr int kAside = 8;                    ///< px; an edge is sought so far from the line
constexpr int kNearest = 3, kFarthest = 16;  ///< px outside the hole where it is looked at
constexpr float kDrawn = 5;                  ///< px; deviation of a hand that draws
constexpr float kStep = 0.02f;               ///< least step of colour that is an edge, 0..1

using Line = std::vector<PointF>;

float lengthOf(const PointF& v) {
    return std::hypot(v.x, v.y);
}

/// Where a line leaves the hole, on its way to its end.
struct Exit {
    PointF at, out;   ///< `out`: unit vector away from the hole
    float along = 0;  ///< px from the line's start
};

/// The line's two exits, where it starts and ends outside the hole with some of it inside.
std::optional<std::pair<Exit, Exit>> exitsOf(const Line& line, const Mask& hole) {
    std::optional<Exit> first, last;
    float along = 0;
    for (size_t i = 1; i < line.size(); ++i) {
        const PointF way = line[i] - line[i - 1];
        const float length = lengthOf(way);
        if (length == 0) continue;
        for (float t = 0; t < length; t += 1) {
            const PointF p = line[i - 1] + way * (t / length);
            const Point pixel(int(p.x), int(p.y));
            if (!Rect({0, 0}, hole.size()).contains(pixel) || !hole.at<uchar>(pixel)) continue;
            if (!first) first = {p, way * (-1 / length), along + t};
            last = {p, way * (1 / length), along + t};
        }
        along += length;
    }
    if (!first || last->along - first->along < 1) return std::nullopt;
    return std::pair(*first, *last);
}

/// The colour at a place between pixels; nothing where one of them is not known.
std::optional<Vec4> colourAt(const PointF& p, const Level& level) {
    const float x = p.x - 0.5f, y = p.y - 0.5f;
    const Point at(int(std::floor(x)), int(std::floor(y)));
    if (at.x < 0 || at.y < 0 || at.x + 1 >= level.hole.cols || at.y + 1 >= level.hole.rows)
        return std::nullopt;
    Vec4 out{};
    for (const Point& corner : {Point(0, 0), Point(1, 0), Point(0, 1), Point(1, 1)}) {
        const Point q = at + corner;
        if (level.hole.at<uchar>(q) || level.forbidden.at<uchar>(q)) return std::nullopt;
        const float u = x - float(at.x), v = y - float(at.y);
        out += splat((corner.x ? u : 1 - u) * (corner.y ? v : 1 - v)) * level.at(q.x, q.y);
    }
    return out;
}

/// How colours step across the line's course outside an exit, at -kAside..kAside px to its left;
/// `left` is given so that both exits tell alike. Empty when too little is known there.
std::vector<Vec4> stepsAt(const Exit& exit, const PointF& left, const Level& level) {
    const int n = 2 * kAside + 3;
    std::vector<Vec4> mean(size_t(n), Vec4{}), out;
    for (int k = 0; k < n; ++k) {
        float count = 0;
        for (int far = kNearest; far <= kFarthest; ++far) {
            const auto c =
                colourAt(exit.at + exit.out * float(far) + left * float(k - kAside - 1), level);
            if (!c) continue;
            mean[size_t(k)] += *c;
            count += 1;
        }
        if (count == 0) return {};
        mean[size_t(k)] *= splat(1 / count);
    }
    for (size_t k = 2; k < mean.size(); ++k) out.push_back(mean[k] - mean[k - 2]);
    return out;
}

float dot(const Vec4& a, const Vec4& b) {
    const Vec4 p = a * b;
    return p[0] + p[1] + p[2];
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
    const auto alike = [&](int a, int b) {
        if (a < 0 || b < 0 || a >= n || b >= n) return 0.0f;
        const float x = float(a - kAside), y = float(b - kAside);
        return std::exp(-0.5f * (x * x + y * y) / (kDrawn * kDrawn)) *
               dot(first[size_t(a)], last[size_t(b)]);
    };
    float most = kStep * kStep;
    Point best(-1, -1);
    for (int a = 0; a < n; ++a)
        for (int b = 0; b < n; ++b)
            if (const float v = alike(a, b); v > most) most = v, best = {a, b};
    if (best.x < 0) return std::nullopt;
    const auto [a, b] = std::pair(best.x, best.y);
    return std::pair(float(a - kAside) + crest(alike(a - 1, b), most, alike(a + 1, b)),
                     float(b - kAside) + crest(alike(a, b - 1), most, alike(a, b + 1)));
}

/// The line moved onto the edge it means; as it was drawn where there is none.
Line ontoEdge(const Line& line, const Level& level) {
    const auto exits = exitsOf(line, level.hole);
    if (!exits) return line;
    const auto& [first, last] = *exits;
    const auto leftOf = [](const PointF& way) { return PointF(way.y, -way.x); };
    const auto aside = asides(stepsAt(first, leftOf(first.out * -1.0f), level),
                              stepsAt(last, leftOf(last.out), level));
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
        if (lines[i].size() >= 2) lay(prolonged(ontoEdge(lines[i], level)), uchar(i + 1), level);
}

}  // namespace gq::mend
