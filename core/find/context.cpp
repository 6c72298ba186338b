#include "core/find/context.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr int kReach = Context::kCrowdWindows.back() / Context::kPool / 2 + 1;

/// Pooled pixels across a window.
constexpr int sideOf(int window) {
    return window / Context::kPool | 1;
}

/// Pools |residual|, its square, steepness, and |residual| outside candidates.
struct Pooled {
    ImageF size, square, gradient, other;
};

Pooled pool(const Level& level, const Residual& r, const Candidates& all, std::stop_token stop) {
    constexpr int k = Context::kPool;
    const Size small((r.toward.cols + k - 1) / k, (r.toward.rows + k - 1) / k);
    Pooled out{ImageF(small, CV_32F), ImageF(small, CV_32F), ImageF(small, CV_32F),
               ImageF(small, CV_32F)};
    const auto row = [&](int y) {
        const int bottom = std::min(r.toward.rows, (y + 1) * k), cols = r.toward.cols;
        std::vector<float> columns(4 * size_t(cols), 0.0f);
        float *size = columns.data(), *square = size + cols, *gradient = square + cols,
              *other = gradient + cols;
        for (int j = y * k; j < bottom; ++j) {
            const auto *t = r.toward.ptr<float>(j), *g = level.gradient.ptr<float>(j);
            const auto* l = all.labels.ptr<int>(j);
#pragma omp simd
            for (int i = 0; i < cols; ++i) {
                const float a = std::abs(t[i]);
                size[i] += a;
                square[i] += a * a;
                gradient[i] += g[i];
                other[i] += l[i] == 0 ? a : 0.0f;
            }
        }
        const auto mean = [&](const float* sums, ImageF& to) {
            auto* o = to.ptr<float>(y);
            for (int x = 0; x < small.width; ++x) {
                const int right = std::min(cols, (x + 1) * k);
                float sum = 0;
                for (int i = x * k; i < right; ++i) sum += sums[i];
                o[x] = sum / float((bottom - y * k) * (right - x * k));
            }
        };
        mean(size, out.size);
        mean(square, out.square);
        mean(gradient, out.gradient);
        mean(other, out.other);
    };
    forRows(small.height, row, stop);
    return out;
}

}  // namespace

Context::Context(const Level& level, const Residual& r, const Candidates& all,
                 std::stop_token stop) {
    const Pooled planes = pool(level, r, all, stop);
    if (stop.stop_requested()) return;
    ImageF count(planes.size.size(), CV_32F, cv::Scalar(0)), crowd = count.clone();
    for (const auto& region : all.regions) {
        double most = 0;
        cv::minMaxLoc(r.toward(region.box), nullptr, &most, nullptr, nullptr, region.mask);
        m_peaks.push_back(float(most));
        const PointF c = region.centre();
        const Point at(std::min(int(c.x) / kPool, count.cols - 1),
                       std::min(int(c.y) / kPool, count.rows - 1));
        count.at<float>(at) += 1;
        crowd.at<float>(at) += std::min(float(most), 1.0f);
    }
    const std::array<std::function<void()>, 5> works{
        [&] { m_size = Windows(planes.size, true); },
        [&] { m_square = Windows(planes.square, true); },
        [&] { m_gradient = Windows(planes.gradient, true); },
        [&] { m_count = Windows(count, false); },
        [&] { m_crowd = Windows(crowd, false); },
    };
    forEach(
        int(works.size()), [&](int i) { works[size_t(i)](); }, stop);
    if (stop.stop_requested()) return;
    cv::dilate(planes.other, m_other, cv::Mat::ones(9, 9, CV_8U));
    m_overallNoise = float(cv::mean(r.noise)[0]);
}

Point Context::pooled(Point at) const {
    return {std::min(at.x / kPool, m_other.cols - 1), std::min(at.y / kPool, m_other.rows - 1)};
}

Context::Windows::Windows(const ImageF& plane, bool reflected) {
    ImageF padded;
    cv::copyMakeBorder(plane, padded, kReach, kReach, kReach, kReach,
                       reflected ? cv::BORDER_REFLECT : cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::integral(padded, m_sums, CV_64F);
}

float Context::Windows::sum(Point at, int window) const {
    const int side = sideOf(window);
    const Point last(m_sums.cols - 2 - 2 * kReach, m_sums.rows - 2 - 2 * kReach);
    const int left = std::min(at.x / kPool, last.x) + kReach - side / 2, right = left + side,
              top = std::min(at.y / kPool, last.y) + kReach - side / 2, bottom = top + side;
    return float(m_sums.at<double>(bottom, right) - m_sums.at<double>(top, right) -
                 m_sums.at<double>(bottom, left) + m_sums.at<double>(top, left));
}

float Context::Windows::mean(Point at, int window) const {
    const auto side = float(sideOf(window));
    return sum(at, window) / (side * side);
}

}  // namespace gq::find
