#include "core/mend/membrane.h"

#include <array>
#include <opencv2/core/hal/intrin.hpp>

#include "core/pixels/parallel.h"

namespace gq::mend {
namespace {

constexpr size_t kPoints = 72;

std::vector<Point> thinned(const std::vector<Point>& rim) {
    const size_t step = std::max<size_t>(1, rim.size() / kPoints);
    std::vector<Point> out;
    for (size_t i = 0; i < rim.size(); i += step) out.push_back(rim[i]);
    return out;
}

/// Calls `body(i)` for i in [0, count); a large piece on all threads.
template <class Body>
void inBands(size_t count, Body body) {
    constexpr size_t kBand = 4000;
    const size_t bands = (count + kBand - 1) / kBand;
    const auto run = [&](size_t band) {
        for (size_t i = band * kBand; i < std::min(count, (band + 1) * kBand); ++i) body(i);
    };
    if (bands > 1)
        forEach(int(bands), [&](int band) { run(size_t(band)); });
    else if (bands == 1)
        run(0);
}

}  // namespace

Membrane::Membrane(const std::vector<Point>& rim, const std::vector<Point>& piece)
    : m_rim(thinned(rim)), m_weights(piece.size() * m_rim.size()) {
    using cv::v_float32x4;
    const size_t n = m_rim.size(), padded = (n + 3) / 4 * 4;
    std::vector<float> rx(padded, 0.0f), ry(padded, 0.0f);
    for (size_t j = 0; j < n; ++j) rx[j] = float(m_rim[j].x), ry[j] = float(m_rim[j].y);
    inBands(piece.size(), [&](size_t i) {
        const v_float32x4 px = cv::v_setall_f32(float(piece[i].x)),
                          py = cv::v_setall_f32(float(piece[i].y)), half = cv::v_setall_f32(0.5f),
                          one = cv::v_setall_f32(1);
        std::array<float, 2 * kPoints> k;
        for (size_t j = 0; j < padded; j += 4) {
            const v_float32x4 dx = cv::v_load(&rx[j]) - px, dy = cv::v_load(&ry[j]) - py,
                              d = dx * dx + dy * dy + half;
            cv::v_store(&k[j], one / (d * cv::v_sqrt(d)));
        }
        float total = 0;
        for (size_t j = 0; j < n; ++j) total += k[j];
        for (size_t j = 0; j < n; ++j) m_weights[i * n + j] = k[j] / total;
    });
}

std::vector<Vec4> Membrane::spread(const std::vector<Vec4>& onRim) const {
    std::vector<Vec4> out(m_weights.size() / m_rim.size(), Vec4{});
    inBands(out.size(), [&](size_t i) {
        const float* k = &m_weights[i * onRim.size()];
        Vec4 sum{};
        for (const Vec4& v : onRim) sum += splat(*k++) * v;
        out[i] = sum;
    });
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
