#include "core/find/context.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

ImageF boxMean(const ImageF& plane, int window, bool normalized = true) {
    ImageF out;
    const int k = window / Context::kPool | 1;
    cv::boxFilter(plane, out, CV_32F, {k, k}, {-1, -1}, normalized,
                  normalized ? cv::BORDER_REFLECT : cv::BORDER_CONSTANT);
    return out;
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
        const int bottom = std::min(r.toward.rows, (y + 1) * k);
        for (int x = 0; x < small.width; ++x) {
            const int right = std::min(r.toward.cols, (x + 1) * k);
            float size = 0, square = 0, gradient = 0, other = 0;
            for (int j = y * k; j < bottom; ++j) {
                const auto *t = r.toward.ptr<float>(j), *g = level.gradient.ptr<float>(j);
                const auto* l = all.labels.ptr<int>(j);
                for (int i = x * k; i < right; ++i) {
                    const float a = std::abs(t[i]);
                    size += a;
                    square += a * a;
                    gradient += g[i];
                    if (l[i] == 0) other += a;
                }
            }
            const float n = 1 / float((bottom - y * k) * (right - x * k));
            out.size.at<float>(y, x) = size * n;
            out.square.at<float>(y, x) = square * n;
            out.gradient.at<float>(y, x) = gradient * n;
            out.other.at<float>(y, x) = other * n;
        }
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
    for (size_t w = 0; w < 3; ++w) {
        m_size[w] = boxMean(planes.size, kWindows[w]);
        m_square[w] = boxMean(planes.square, kWindows[w]);
        m_count[w] = boxMean(count, kCrowdWindows[w], false);
        m_crowd[w] = boxMean(crowd, kCrowdWindows[w], false);
        if (w < 2) m_gradient[w] = boxMean(planes.gradient, kWindows[w]);
    }
    cv::dilate(planes.other, m_other, cv::Mat::ones(9, 9, CV_8U));
    m_overallNoise = float(cv::mean(r.noise)[0]);
}

float Context::pooled(const ImageF& plane, Point at) {
    return plane.at<float>(std::min(at.y / kPool, plane.rows - 1),
                           std::min(at.x / kPool, plane.cols - 1));
}

}  // namespace gq::find
