#include "core/render/viewing_light.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::render {
namespace {

constexpr int kSoughtMedian = 15, kSoughtNoise = 61;  ///< px of the level, as Find uses
constexpr int kCoarser = 4, kCoarserNoise = 21;       ///< of the coarser look, px of its own

Image8 throughCurve(const Image8& tile, float (*curve)(float)) {
    cv::Mat table(1, 256, CV_8U);
    for (int i = 0; i < 256; ++i)
        table.at<uchar>(i) = uchar(std::clamp(std::lround(curve(float(i) / 255) * 255), 0l, 255l));
    Image8 out;
    cv::LUT(tile, table, out);
    return out;
}

/// Grey relief: each tone against the mean of its surroundings, raised, about a middle grey. The
/// difference is divided by the local light, since dust dims by a factor.
Image8 raking(const Image8& tile, const ViewingLight& light, int level) {
    cv::Mat grey, mean, out;
    cv::cvtColor(tile, grey, cv::COLOR_RGB2GRAY);
    grey.convertTo(grey, CV_32F);
    const int k = std::max(3, int(light.reach) >> level) | 1;
    cv::boxFilter(grey, mean, CV_32F, {k, k}, {-1, -1}, true, cv::BORDER_REFLECT);
    cv::boxFilter(mean, mean, CV_32F, {k, k}, {-1, -1}, true, cv::BORDER_REFLECT);
    cv::divide(grey - mean, mean + 24, out);
    out.convertTo(out, CV_8U, double(light.gain) * 190, 118);
    cv::cvtColor(out, out, cv::COLOR_GRAY2RGB);
    return out;
}

/// The departure from a median, over the clipped mean departure around.
cv::Mat departure(const cv::Mat& grey, int noise) {
    cv::Mat middle, rest, mean, out;
    cv::medianBlur(grey, middle, kSoughtMedian);
    cv::subtract(grey, middle, rest, cv::noArray(), CV_32F);
    const cv::Mat size = cv::abs(rest);
    cv::blur(size, mean, {noise, noise}, {-1, -1}, cv::BORDER_REFLECT);
    cv::blur(cv::Mat(cv::min(size, mean * 3)), mean, {noise, noise}, {-1, -1}, cv::BORDER_REFLECT);
    cv::divide(rest, mean * 1.25 + 1.0, out);
    return out;
}

/// The larger of a fine and a coarser look's departures, about a middle grey.
Image8 sought(const Image8& tile) {
    cv::Mat grey, small, out;
    cv::cvtColor(tile, grey, cv::COLOR_RGB2GRAY);
    cv::Mat fine = departure(grey, kSoughtNoise), coarse;
    if (std::min(grey.cols, grey.rows) >= 4 * kCoarser) {
        cv::resize(grey, small, {}, 1.0 / kCoarser, 1.0 / kCoarser, cv::INTER_AREA);
        cv::resize(departure(small, kCoarserNoise), coarse, grey.size(), 0, 0, cv::INTER_LINEAR);
        coarse.copyTo(fine, cv::abs(coarse) > cv::abs(fine));
    }
    fine.convertTo(out, CV_8U, 18, 128);
    cv::cvtColor(out, out, cv::COLOR_GRAY2RGB);
    return out;
}

}  // namespace

int margin(const ViewingLight& light, int level) {
    // A multiple of the coarser look's pixels, so that neighbouring tiles see the same ones.
    if (light.light == Light::Sought) return kCoarser * (kSoughtMedian / 2 + kCoarserNoise);
    return light.light == Light::Raking ? std::max(4, (int(light.reach) >> level) + 2) : 0;
}

Image8 lit(const Image8& tile, const ViewingLight& light, int level) {
    switch (light.light) {
        case Light::Plain:
            return tile;
        case Light::Raking:
            return raking(tile, light, level);
        case Light::Low:
            return throughCurve(tile, [](float v) { return std::pow(v, 2.6f) * 0.9f; });
        case Light::Deep:
            return throughCurve(tile, [](float v) { return (v - 0.35f) / 0.65f; });
        case Light::Sought:
            return sought(tile);
    }
    return tile;
}

}  // namespace gq::render
