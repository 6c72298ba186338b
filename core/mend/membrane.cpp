#include "core/mend/membrane.h"

#include <cmath>

namespace gq::mend {
namespace {

constexpr size_t kPoints = 72;

std::vector<Point> thinned(const std::vector<Point>& rim) {
    const size_t step = std::max<size_t>(1, rim.size() / kPoints);
    std::vector<Point> out;
    for (size_t i = 0; i < rim.size(); i += step) out.push_back(rim[i]);
    return out;
}

}  // namespace

Membrane::Membrane(const std::vector<Point>& rim, const std::vector<Point>& piece)
    : m_rim(thinned(rim)) {
    m_weights.reserve(piece.size() * m_rim.size());
    for (const Point& p : piece) {
        const size_t start = m_weights.size();
        float total = 0;
        for (const Point& r : m_rim) {
            const float dx = float(r.x - p.x), dy = float(r.y - p.y), d = dx * dx + dy * dy + 0.5f;
            const float k = 1 / (d * std::sqrt(d));
            m_weights.push_back(k);
            total += k;
        }
        for (size_t i = start; i < m_weights.size(); ++i) m_weights[i] /= total;
    }
}

std::vector<Vec4> Membrane::spread(const std::vector<Vec4>& onRim) const {
    std::vector<Vec4> out(m_weights.size() / m_rim.size(), Vec4{});
    const float* k = m_weights.data();
    for (auto& sum : out)
        for (const Vec4& v : onRim) sum += splat(*k++) * v;
    return out;
}

void winsorise(std::vector<Vec4>& values) {
    std::vector<float> v(values.size());
    const auto median = [&] {
        const auto middle = v.begin() + long(v.size() / 2);
        std::nth_element(v.begin(), middle, v.end());
        return *middle;
    };
    for (int c = 0; c < 3; ++c) {
        for (size_t i = 0; i < values.size(); ++i) v[i] = values[i][c];
        const float m = median();
        for (size_t i = 0; i < values.size(); ++i) v[i] = std::abs(values[i][c] - m);
        const float limit = 2.5f * (1.4826f * median() + 0.004f);
        for (auto& r : values) r[c] = std::clamp(r[c], m - limit, m + limit);
    }
}

}  // namespace gq::mend
