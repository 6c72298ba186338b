#include "core/mend/placed.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/membrane.h"
#include "core/mend/source_search.h"

namespace gq::mend {
namespace {

constexpr int kRim = 3;

/// Weights of the four neighbours of a place `t` between the middle two.
/// Source: Catmull, Rom, "A class of local interpolating splines", 1974.
std::array<float, 4> cubic(float t) {
    const float t2 = t * t, t3 = t2 * t;
    return {-0.5f * t3 + t2 - 0.5f * t, 1.5f * t3 - 2.5f * t2 + 1, -1.5f * t3 + 2 * t2 + 0.5f * t,
            0.5f * t3 - 0.5f * t2};
}

const Vec4& clamped(const Window& w, int x, int y) {
    return w.at(std::clamp(x, 0, w.width() - 1), std::clamp(y, 0, w.height() - 1));
}

/// Places the membrane is worked out at: all of a small hole, of a large one the corners of squares
/// of kSquare px, between which it changes little.
constexpr int kSquare = 4;
constexpr size_t kLarge = 3000;

Rect squaresOf(const std::vector<Point>& hole) {
    const Rect b = cv::boundingRect(hole);
    return {b.x, b.y, (b.width + kSquare - 1) / kSquare + 1,
            (b.height + kSquare - 1) / kSquare + 1};
}

std::vector<Point> latticeOf(const std::vector<Point>& hole) {
    if (hole.size() < kLarge) return hole;
    const Rect squares = squaresOf(hole);
    std::vector<Point> out;
    for (int y = 0; y < squares.height; ++y)
        for (int x = 0; x < squares.width; ++x)
            out.emplace_back(squares.x + x * kSquare, squares.y + y * kSquare);
    return out;
}

void addSheet(const Membrane& membrane, const std::vector<Vec4>& difference,
              const std::vector<Point>& hole, std::vector<Vec4>& values) {
    const auto sheet = membrane.spread(difference);
    if (hole.size() < kLarge) {
        for (size_t i = 0; i < hole.size(); ++i) values[i] += sheet[i];
        return;
    }
    const Rect squares = squaresOf(hole);
    for (size_t i = 0; i < hole.size(); ++i) {
        const Point p = hole[i] - squares.tl();
        const int x = p.x / kSquare, y = p.y / kSquare;
        const float u = float(p.x % kSquare) / kSquare, v = float(p.y % kSquare) / kSquare;
        const Vec4* at = &sheet[size_t(y) * size_t(squares.width) + size_t(x)];
        const Vec4 above = at[0] * splat(1 - u) + at[1] * splat(u),
                   below = at[squares.width] * splat(1 - u) + at[squares.width + 1] * splat(u);
        values[i] += above * splat(1 - v) + below * splat(v);
    }
}

}  // namespace

Placement::Placement(PointF centre, Point offset, const Turn& turn)
    : m_centre(centre), m_offset(offset), m_plain(turn.none()) {
    // A point of the place goes back through enlarging, turning and mirroring.
    const float a = -turn.degrees * 3.14159265f / 180, k = 1 / turn.scale,
                m = turn.mirrored ? -1.0f : 1.0f;
    m_a = m * k * std::cos(a);
    m_b = -m * k * std::sin(a);
    m_c = k * std::sin(a);
    m_d = k * std::cos(a);
}

PointF Placement::at(const PointF& p) const {
    const PointF d = p - m_centre;
    return m_centre + PointF(m_offset) + PointF(m_a * d.x + m_b * d.y, m_c * d.x + m_d * d.y);
}

Vec4 Placement::sample(const Window& w, const Point& p) const {
    if (m_plain) return clamped(w, p.x + m_offset.x, p.y + m_offset.y);
    const PointF s = at(p);
    const int x = int(std::floor(s.x)), y = int(std::floor(s.y));
    const auto across = cubic(s.x - float(x)), down = cubic(s.y - float(y));
    Vec4 sum{};
    for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i)
            sum += splat(across[size_t(i)] * down[size_t(j)]) * clamped(w, x + i - 1, y + j - 1);
    return sum;
}

Rect Placement::sourceOf(const Rect& place) const {
    if (m_plain) return place + m_offset;
    const PointF a(place.tl()), b(place.br() - Point(1, 1));
    const std::vector<PointF> corners{at(a), at(b), at({a.x, b.y}), at({b.x, a.y})};
    return cv::boundingRect(corners);
}

float fillFrom(Window& w, const std::vector<Point>& hole, const Sampler& source, bool toned) {
    std::vector<Vec4> values(hole.size());
    for (size_t i = 0; i < hole.size(); ++i) values[i] = source(hole[i]);
    const Ring rim = ringOf(w, hole, kRim);
    float square = 0;
    if (!rim.places.empty()) {
        const Membrane membrane(rim.places, latticeOf(hole));
        std::vector<Vec4> difference;
        for (const Point& p : membrane.rim()) {
            difference.push_back(w.at(p.x, p.y) - source(p));
            square += sum3(difference.back() * difference.back()) / 3;
        }
        square /= float(membrane.rim().size());
        if (toned) {
            winsorise(difference);
            addSheet(membrane, difference, hole, values);
        }
    }
    w.write(hole, values);
    return std::sqrt(square);
}

}  // namespace gq::mend
