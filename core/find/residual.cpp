#include "core/find/residual.h"

#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

constexpr int kNoiseWindow = 61;

/// Median over k x k of an 8-bit plane, in bands, so that all threads take part.
Image8 bandedMedian(const Image8& plane, int k, std::stop_token stop) {
    Image8 out(plane.size(), CV_8U);
    const int band = 256, count = (plane.rows + band - 1) / band, margin = k / 2;
    forEach(
        count,
        [&](int i) {
            const int top = i * band, bottom = std::min(plane.rows, top + band);
            const int from = std::max(0, top - margin), to = std::min(plane.rows, bottom + margin);
            Image8 filtered;
            cv::medianBlur(plane.rowRange(from, to), filtered, k);
            filtered.rowRange(top - from, bottom - from).copyTo(out.rowRange(top, bottom));
        },
        stop);
    return out;
}

/// A coarse background: 5 x 5 median two levels down, laid back over the plane.
ImageF coarseBackground(const ImageF& plane) {
    ImageF small = plane;
    for (int i = 0; i < 2 && std::min(small.rows, small.cols) > 16; ++i) small = halved(small);
    ImageF filtered, out;
    cv::medianBlur(small, filtered, 5);
    cv::resize(filtered, out, plane.size(), 0, 0, cv::INTER_LINEAR);
    return out;
}

void residualRows(const ImageF& plane, const ImageF& coarse, const Image8& median, float step,
                  ImageF& out) {
    forRows(plane.rows, [&](int y) {
        const auto *p = plane.ptr<float>(y), *c = coarse.ptr<float>(y);
        const auto* m = median.ptr<uchar>(y);
        auto* r = out.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) r[x] = p[x] - c[x] - float(m[x] - 128) * step;
    });
}

ImageF noiseOf(const ImageF& residual, float floor) {
    const ImageF size = cv::abs(residual);
    ImageF mean, out;
    const cv::Size window(kNoiseWindow, kNoiseWindow);
    cv::boxFilter(size, mean, CV_32F, window, {-1, -1}, true, cv::BORDER_REFLECT);
    const ImageF clipped = cv::min(size, mean * 3.0f);
    cv::boxFilter(clipped, out, CV_32F, window, {-1, -1}, true, cv::BORDER_REFLECT);
    return out * 1.25f + floor;  // 1.25: mean of |x| to deviation of a normal x
}

}  // namespace

const std::vector<LevelPlan>& levelsOf(Origin origin) {
    static const std::vector<LevelPlan> sensor{{1, 15, 0.8f}, {2, 15, 0.7f}, {3, 17, 0.7f}};
    static const std::vector<LevelPlan> film{{0, 9, 0.0f}, {1, 13, 0.0f}, {2, 15, 0.0f}};
    return origin == Origin::Sensor ? sensor : film;
}

Residual residualOf(const Image& pixels, const LevelPlan& plan, Origin origin,
                    std::stop_token stop) {
    Residual out;
    out.level = plan.level;
    out.colour = pixels;
    const bool sensor = origin == Origin::Sensor;
    out.plane = sensor ? logLuminance(pixels) : luma(pixels);
    if (plan.smoothing > 0) cv::GaussianBlur(out.plane, out.plane, {5, 5}, double(plan.smoothing));
    if (stop.stop_requested()) return out;
    const float step = sensor ? 0.003f : 0.0025f;
    const ImageF coarse = coarseBackground(out.plane);
    Image8 coded;
    ImageF(out.plane - coarse).convertTo(coded, CV_8U, 1 / double(step), 128);
    const Image8 median = bandedMedian(coded, plan.window, stop);
    if (stop.stop_requested()) return out;
    out.residual.create(out.plane.size(), CV_32F);
    residualRows(out.plane, coarse, median, step, out.residual);
    out.noise = noiseOf(out.residual, sensor ? 0.0035f : 0.006f);
    return out;
}

}  // namespace gq::find
