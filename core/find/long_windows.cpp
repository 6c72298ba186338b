#include "core/find/long_windows.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr int kWindow = 129;  ///< px along the line
constexpr float kAgreed = 0.45f, kStands = 3.0f;

/// Rows taken together, and the share of each.
struct Pool {
    Pool(int i, int rows)
        : from(i * kRowsPooled),
          to(std::min(rows, from + kRowsPooled)),
          share(1 / float(to - from)) {}
    int from, to;
    float share;
};

/// Mean of five pixels of a row, mirrored at its ends.
void meanOfFive(const float* p, int cols, float* out) {
    const auto at = [&](int x) {
        return p[cv::borderInterpolate(x, cols, cv::BORDER_REFLECT_101)];
    };
    for (const int x : {0, 1, cols - 2, cols - 1})
        out[x] = (at(x - 2) + at(x - 1) + p[x] + at(x + 1) + at(x + 2)) * 0.2f;
#pragma omp simd
    for (int x = 2; x < cols - 2; ++x)
        out[x] = (p[x - 2] + p[x - 1] + p[x] + p[x + 1] + p[x + 2]) * 0.2f;
}

/// Upright ridges in noise units, clipped so that no single place decides; one row for each
/// kRowsPooled. Stopped: nothing of use.
ImageF ridge(const ImageF& plane, std::stop_token stop) {
    constexpr int kBeside = 4;
    const int cols = plane.cols;
    ImageF heights(plane.size(), CV_32F),
        uneven((plane.rows + kRowsPooled - 1) / kRowsPooled, cols, CV_32F);
    forRows(
        uneven.rows,
        [&](int i) {
            const Pool pool(i, plane.rows);
            auto* u = uneven.ptr<float>(i);
            std::fill(u, u + cols, 0.0f);
            std::vector<float> sides(static_cast<size_t>(cols));
            const float* s = sides.data();
            for (int y = pool.from; y < pool.to; ++y) {
                const auto* p = plane.ptr<float>(y);
                auto* h = heights.ptr<float>(y);
                meanOfFive(p, cols, sides.data());
                std::fill(h, h + kBeside, 0.0f);
                std::fill(h + cols - kBeside, h + cols, 0.0f);
#pragma omp simd
                for (int x = kBeside; x < cols - kBeside; ++x) {
                    const float middle = (p[x - 1] + p[x] + p[x + 1]) * (1 / 3.0f),
                                left = s[x - kBeside], right = s[x + kBeside];
                    h[x] = middle - std::max(left, right);
                    u[x] += std::abs(middle - 0.5f * (left + right)) * pool.share;
                }
            }
        },
        stop);
    const cv::Size window(41, 41 / kRowsPooled | 1);
    ImageF mean, noise;
    cv::boxFilter(uneven, mean, CV_32F, window);
    if (stop.stop_requested()) return {};
    cv::boxFilter(ImageF(cv::min(uneven, mean * 3.0f)), noise, CV_32F, window);
    ImageF out(uneven.size(), CV_32F, cv::Scalar(0));
    forRows(
        out.rows,
        [&](int i) {
            const Pool pool(i, plane.rows);
            const auto* n = noise.ptr<float>(i);
            auto* o = out.ptr<float>(i);
            for (int y = pool.from; y < pool.to; ++y) {
                const auto* h = heights.ptr<float>(y);
#pragma omp simd
                for (int x = 0; x < cols; ++x)
                    o[x] += std::min(std::max(h[x] / (n[x] + 0.004f), -1.5f), 3.0f) * pool.share;
            }
        },
        stop);
    return out;
}

/// Rows moved sideways by `slope` of their distance from the middle one.
ImageF sheared(const ImageF& z, float slope) {
    ImageF out(z.size(), CV_32F);
    forRows(z.rows, [&](int y) {
        const float shift = slope * float(kRowsPooled) * (float(y) - float(z.rows) / 2);
        const int whole = int(std::floor(shift));
        const float part = shift - float(whole);
        const auto* p = z.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        const auto at = [&](int x) { return p[std::clamp(x, 0, z.cols - 1)]; };
        const int from = std::clamp(-whole, 0, z.cols),
                  to = std::clamp(z.cols - 1 - whole, from, z.cols);
        for (int x = 0; x < from; ++x) o[x] = at(x + whole);
        for (int x = from; x < to; ++x)
            o[x] = p[x + whole] + part * (p[x + whole + 1] - p[x + whole]);
        for (int x = to; x < z.cols; ++x) o[x] = at(x + whole);
    });
    return out;
}

}  // namespace

ImageF alongWindows(const ImageF& tone, std::stop_token stop) {
    const ImageF pooled = ridge(tone, stop);
    if (pooled.empty()) return {};
    constexpr int kSlopes = 9, kMiddle = kSlopes / 2;
    ImageF best;
    for (int i = 0; i < kSlopes; ++i) {
        if (stop.stop_requested()) return {};
        const float slope = 0.15f * float(i - kMiddle) / float(kMiddle);
        ImageF sum;
        cv::blur(sheared(pooled, slope), sum, {1, kWindow / kRowsPooled | 1});
        sum = sheared(sum, -slope);
        best = best.empty() ? sum : ImageF(cv::max(best, sum));
    }
    return best;
}

Mask outstanding(const ImageF& sum, int rows) {
    const cv::Size window(81, 41 / kRowsPooled | 1);
    ImageF mean, square, peak;
    cv::blur(sum, mean, window);
    const ImageF tame = cv::min(sum, mean + 0.6f);
    ImageF tameMean;
    cv::blur(tame, tameMean, window);
    cv::blur(ImageF(tame.mul(tame)), square, window);
    cv::dilate(sum, peak, cv::Mat::ones(1, 9, CV_8U));
    Mask out(sum.size(), CV_8U);
    forRows(sum.rows, [&](int y) {
        const auto *s = sum.ptr<float>(y), *m = mean.ptr<float>(y), *t = tameMean.ptr<float>(y);
        const auto *q = square.ptr<float>(y), *p = peak.ptr<float>(y);
        auto* o = out.ptr<uchar>(y);
        for (int x = 0; x < sum.cols; ++x) {
            const float deviation = std::sqrt(std::max(q[x] - t[x] * t[x], 0.0f)) + 0.05f;
            o[x] = s[x] > kAgreed && (s[x] - m[x]) / deviation > kStands && s[x] >= p[x] - 1e-6f
                       ? 255
                       : 0;
        }
    });
    cv::dilate(out, out, cv::Mat::ones(3, 3, CV_8U));
    Mask full;
    cv::resize(out, full, {sum.cols, sum.rows * kRowsPooled}, 0, 0, cv::INTER_NEAREST);
    return full.rowRange(0, rows);
}

}  // namespace gq::find
