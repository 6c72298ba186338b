#include "core/find/look.h"

#include <algorithm>
#include <cmath>
#include <span>

namespace gq::find {
namespace {

constexpr float kSpread = 2.5f;  ///< side of the look over the candidate's longer side
constexpr int kWide = 3;         ///< side of the wide surroundings over that

/// Adds up what `value(x, y)` gives at N x N places a cell, row by row.
template <int N, class Value>
ImageF summed(std::span<const int> xs, std::span<const int> ys, Value value) {
    ImageF out(kLookSide, kLookSide, CV_32F, cv::Scalar(0));
    for (int j = 0; j < kLookSide * N; ++j) {
        auto* o = out.ptr<float>(j / N);
        for (int i = 0; i < kLookSide; ++i)
            for (int k = 0; k < N; ++k) o[i] += value(xs[size_t(i * N + k)], ys[size_t(j)]);
    }
    return out;
}

/// The look over `window` (which may reach beyond the picture) of what `value(x, y)` gives for a
/// pixel: means of at most nine samples a cell, so that a long hair costs no more than a grain.
template <class Value>
ImageF sampled(const Size& size, const Rect& window, Value value) {
    const float cell = float(window.width) / kLookSide;
    const int n = std::clamp(int(std::ceil(cell - 0.01f)), 1, 3);
    std::array<int, size_t(kLookSide) * 3> xs{}, ys{};
    for (int i = 0; i < kLookSide * n; ++i) {
        const float at = (float(i) + 0.5f) * cell / float(n);
        xs[size_t(i)] = std::clamp(window.x + int(at), 0, size.width - 1);
        ys[size_t(i)] = std::clamp(window.y + int(at), 0, size.height - 1);
    }
    ImageF out = n == 1   ? summed<1>(xs, ys, value)
                 : n == 2 ? summed<2>(xs, ys, value)
                          : summed<3>(xs, ys, value);
    out *= 1.0 / (n * n);
    return out;
}

ImageF windowOf(const ImageF& plane, const Rect& window) {
    return sampled(plane.size(), window, [&](int x, int y) { return plane.ptr<float>(y)[x]; });
}

/// The candidate and its neighbours over `window`.
ImageF sharesOf(const Candidates& all, size_t index, const Rect& window) {
    return sampled(all.labels.size(), window, [&](int x, int y) {
        const int l = all.labels.ptr<int>(y)[x];
        return l == int(index) + 1 ? 255.0f : l ? 100.0f : 0.0f;
    });
}

/// Signed, finest around zero: 128 at 0, 64 and 192 at -8 and 8.
uchar signedByte(float z) {
    return cv::saturate_cast<uchar>(128 + 127 * z / (std::abs(z) + 8));
}

}  // namespace

Look lookAt(const Level& level, const Residual& r, const Candidates& all, size_t index) {
    const Rect& box = all.regions[index].box;
    const int longer = std::max(box.width, box.height);
    const int side = std::max(kLookSide, int(std::lround(kSpread * float(longer))));
    const Point middle((box.x * 2 + box.width) / 2, (box.y * 2 + box.height) / 2);
    const Rect near(middle.x - side / 2, middle.y - side / 2, side, side);
    const int reach = side * kWide;
    const Rect wide(middle.x - reach / 2, middle.y - reach / 2, reach, reach);
    const Point at(std::clamp(middle.x, 0, r.toward.cols - 1),
                   std::clamp(middle.y, 0, r.toward.rows - 1));
    const float unit = 1 / r.noiseAt(at);
    Look out;
    uchar* to = out.data();
    const auto put = [&](const ImageF& plane, auto coded) {
        for (int y = 0; y < kLookSide; ++y)
            for (int x = 0; x < kLookSide; ++x) *to++ = coded(plane.at<float>(y, x));
    };
    const auto departure = [&](float v) { return signedByte(v * unit); };
    const auto share = [](float v) { return cv::saturate_cast<uchar>(v); };
    const auto putPlane = [&](const Rect& window) {
        const ImageF plane = windowOf(level.plane, window);
        put(plane, [&, mean = float(cv::mean(plane)[0])](float v) { return departure(v - mean); });
    };
    put(windowOf(r.toward, near), departure);
    put(windowOf(r.across, near),
        [&](float v) { return cv::saturate_cast<uchar>(255 * v * unit / (v * unit + 4)); });
    putPlane(near);
    put(windowOf(r.opacity, near), [](float v) { return cv::saturate_cast<uchar>(255 * v); });
    put(sharesOf(all, index, near), share);
    put(windowOf(r.toward, wide), departure);
    putPlane(wide);
    put(sharesOf(all, index, wide), share);
    return out;
}

}  // namespace gq::find
