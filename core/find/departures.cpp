#include "core/find/departures.h"

#include <algorithm>
#include <array>
#include <opencv2/core/hal/intrin.hpp>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr size_t kLanes = 16;

/// Sixteen pixels' departure towards a tone, what of it points elsewhere, and its share of the way.
struct Move {
    std::array<float, kLanes> toward, across, opacity;
};

/// Sixteen values of a channel as four times four floats.
std::array<cv::v_float32x4, 4> floats(const cv::v_uint8x16& v) {
    cv::v_uint16x8 low, high;
    cv::v_expand(v, low, high);
    std::array<cv::v_float32x4, 4> out;
    cv::v_uint32x4 a, b;
    cv::v_expand(low, a, b);
    out[0] = cv::v_cvt_f32(cv::v_reinterpret_as_s32(a));
    out[1] = cv::v_cvt_f32(cv::v_reinterpret_as_s32(b));
    cv::v_expand(high, a, b);
    out[2] = cv::v_cvt_f32(cv::v_reinterpret_as_s32(a));
    out[3] = cv::v_cvt_f32(cv::v_reinterpret_as_s32(b));
    return out;
}

template <size_t N>
std::array<cv::v_uint8x16, N> channelsOf(const uchar* p) {
    std::array<cv::v_uint8x16, N> out;
    if constexpr (N == 3)
        cv::v_load_deinterleave(p, out[0], out[1], out[2]);
    else
        out[0] = cv::v_load(p);
    return out;
}

/// How far colours have left the range from `low` to `high` towards `tone`.
template <size_t N>
void move(const uchar* v, const uchar* low, const uchar* high, float tone, Move& out) {
    using cv::v_float32x4;
    const float sign = tone > 0.5f ? 1.0f : -1.0f;
    const v_float32x4 zero = cv::v_setzero_f32(), unit = cv::v_setall_f32(1 / 255.0f),
                      to = cv::v_setall_f32(tone), way = cv::v_setall_f32(sign),
                      least = cv::v_setall_f32(0.02f),
                      like = cv::v_setall_f32(3.0f / N);  // grey counts as three equal channels
    std::array<v_float32x4, 4> dd{zero, zero, zero, zero}, rd = dd, rr = dd;
    const auto here = channelsOf<N>(v), from = channelsOf<N>(low), upTo = channelsOf<N>(high);
    for (size_t c = 0; c < N; ++c) {
        const auto own = floats(here[c]),
                   near = floats(cv::v_max(cv::v_min(here[c], upTo[c]), from[c]));
        for (size_t k = 0; k < 4; ++k) {
            const v_float32x4 m = (own[k] - near[k]) * unit,
                              d = way * cv::v_max(way * (to - near[k] * unit), least);
            dd[k] += d * d;
            rd[k] += m * d;
            rr[k] += m * m;
        }
    }
    for (size_t k = 0; k < 4; ++k) {
        const v_float32x4 far = cv::v_sqrt(like * dd[k]), toward = like * rd[k] / far;
        cv::v_store(&out.toward[4 * k], toward);
        cv::v_store(&out.across[4 * k],
                    cv::v_sqrt(cv::v_max(like * rr[k] - toward * toward, zero)));
        cv::v_store(&out.opacity[4 * k], toward / far);
    }
}

/// A row of half the size, each pixel twice.
template <size_t N>
std::vector<uchar> doubled(const Image8& half, int row, size_t width) {
    std::vector<uchar> out(N * width);
    const auto* p = half.ptr<uchar>(std::min(row / 2, half.rows - 1));
    for (size_t x = 0; x < width; ++x)
        std::copy_n(p + N * std::min(x / 2, size_t(half.cols) - 1), N, &out[N * x]);
    return out;
}

template <size_t N>
void moved(const Level& level, float tone, Residual& out, std::stop_token stop) {
    Image8 least, most;
    cv::erode(level.backdrop, least, Mask::ones(3, 3, CV_8U));
    cv::dilate(level.backdrop, most, Mask::ones(3, 3, CV_8U));
    const Size size = level.plane.size();
    for (auto* plane : {&out.toward, &out.across, &out.opacity}) plane->create(size, CV_32F);
    const auto width = size_t(size.width);
    forRows(
        size.height,
        [&](int y) {
            const auto low = doubled<N>(least, y, width), high = doubled<N>(most, y, width);
            const auto* v = level.colour.ptr<uchar>(y);
            const auto put = [&](const Move& m, size_t x, size_t count) {
                std::copy_n(m.toward.data(), count, out.toward.ptr<float>(y) + x);
                std::copy_n(m.across.data(), count, out.across.ptr<float>(y) + x);
                std::copy_n(m.opacity.data(), count, out.opacity.ptr<float>(y) + x);
            };
            Move m;
            size_t x = 0;
            for (; x + kLanes <= width; x += kLanes) {
                move<N>(v + N * x, &low[N * x], &high[N * x], tone, m);
                put(m, x, kLanes);
            }
            if (x == width) return;
            std::array<uchar, N * kLanes> last{}, lastLow{}, lastHigh{};
            const size_t rest = N * (width - x);
            std::copy_n(v + N * x, rest, last.data());
            std::copy_n(&low[N * x], rest, lastLow.data());
            std::copy_n(&high[N * x], rest, lastHigh.data());
            move<N>(last.data(), lastLow.data(), lastHigh.data(), tone, m);
            put(m, x, width - x);
        },
        stop);
}

}  // namespace

void departures(const Level& level, float tone, Residual& out, std::stop_token stop) {
    if (level.colour.channels() == 3)
        moved<3>(level, tone, out, stop);
    else
        moved<1>(level, tone, out, stop);
}

}  // namespace gq::find
