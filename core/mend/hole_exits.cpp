#include "core/mend/hole_exits.h"

#include <cmath>

namespace gq::mend {
namespace {

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

}  // namespace

std::optional<std::pair<Exit, Exit>> exitsOf(const std::vector<PointF>& line, const Mask& hole) {
    std::optional<Exit> first, last;
    float along = 0;
    for (size_t i = 1; i < line.size(); ++i) {
        const PointF way = line[i] - line[i - 1];
        const float length = std::hypot(way.x, way.y);
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

std::vector<Vec4> stepsAcross(const Exit& exit, const PointF& left, const Level& level) {
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

float alike(const Vec4& a, const Vec4& b) {
    const Vec4 p = a * b;
    return p[0] + p[1] + p[2];
}

}  // namespace gq::mend
