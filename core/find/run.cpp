#include "core/find/run.h"

#include <array>
#include <cmath>

namespace gq::find {
namespace {

/// Steps from `start` to every pixel of the region's own piece, -1 elsewhere; `last` is the
/// farthest one.
cv::Mat stepsFrom(const Mask& mask, Point start, Point& last) {
    cv::Mat steps(mask.size(), CV_32S, cv::Scalar(-1));
    std::vector<Point> front{start};
    steps.at<int>(start) = 0;
    for (size_t i = 0; i < front.size(); ++i) {
        const Point p = front[i];
        last = p;
        for (int dy = -1; dy <= 1; ++dy)
            for (int dx = -1; dx <= 1; ++dx) {
                const Point q(p.x + dx, p.y + dy);
                if (!Rect({0, 0}, mask.size()).contains(q) || mask.at<uchar>(q) == 0 ||
                    steps.at<int>(q) >= 0)
                    continue;
                steps.at<int>(q) = steps.at<int>(p) + 1;
                front.push_back(q);
            }
    }
    return steps;
}

}  // namespace

std::vector<PointF> runOf(const Region& region, int step) {
    if (region.empty() || region.area() == 0) return {};
    Point start;
    for (int i = 0; i < region.mask.rows * region.mask.cols; ++i)
        if (region.mask.at<uchar>(i / region.mask.cols, i % region.mask.cols)) {
            start = {i % region.mask.cols, i / region.mask.cols};
            break;
        }
    Point end, other;
    (void)stepsFrom(region.mask, start, end);
    const cv::Mat fromEnd = stepsFrom(region.mask, end, other);
    Point back;
    const cv::Mat fromOther = stepsFrom(region.mask, other, back);
    // Pixels on a shortest way between the ends, or nearly: their means per step are the middle.
    const int whole = fromEnd.at<int>(other), slack = std::max(2, whole / 50);
    std::vector<PointF> sum(size_t(whole / step + 1));
    std::vector<int> count(sum.size(), 0);
    for (int y = 0; y < region.mask.rows; ++y)
        for (int x = 0; x < region.mask.cols; ++x) {
            const int a = fromEnd.at<int>(y, x), b = fromOther.at<int>(y, x);
            if (a < 0 || b < 0 || a + b > whole + slack) continue;
            const auto bin = size_t(std::min(a, whole) / step);
            sum[bin] += PointF(float(region.box.x + x) + 0.5f, float(region.box.y + y) + 0.5f);
            ++count[bin];
        }
    std::vector<PointF> run;
    for (size_t i = 0; i < sum.size(); ++i)
        if (count[i]) run.push_back(sum[i] * (1 / float(count[i])));
    return run;
}

float lengthOf(const std::vector<PointF>& run) {
    float out = 0;
    for (size_t i = 1; i < run.size(); ++i)
        out += std::hypot(run[i].x - run[i - 1].x, run[i].y - run[i - 1].y);
    return out;
}

}  // namespace gq::find
