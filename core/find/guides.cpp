#include "core/find/guides.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

Mask laidOver(const Mask& mask, const Size& level) {
    Mask out;
    if (!mask.empty()) cv::resize(mask, out, level, 0, 0, cv::INTER_LINEAR);
    return out;
}

}  // namespace

ImageF Guides::easing(const Size& level) const {
    if (heed.empty() && hush.empty() && shield.empty() && bounds.empty()) return {};
    const Mask more = laidOver(heed, level), less = laidOver(hush, level),
               shut = laidOver(shield, level), open = laidOver(bounds, level);
    ImageF out(level, CV_32F, cv::Scalar(1));
    forRows(level.height, [&](int y) {
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < level.width; ++x) {
            const float lift = (more.empty() ? 0.0f : float(more.at<uchar>(y, x)) / 255) -
                               (less.empty() ? 0.0f : float(less.at<uchar>(y, x)) / 255);
            o[x] = std::exp2(lift);
            if (!shut.empty() && shut.at<uchar>(y, x) > 127) o[x] = 0;
            if (!open.empty() && open.at<uchar>(y, x) < 128) o[x] = 0;
        }
    });
    return out;
}

}  // namespace gq::find
