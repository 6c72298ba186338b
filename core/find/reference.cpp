#include "core/find/reference.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

namespace gq::find {

Suitability suitability(const Image8& thumbnail, double aperture) {
    Suitability out;
    if (thumbnail.empty()) return out;
    cv::Mat grey, soft;
    if (thumbnail.channels() == 3)
        cv::cvtColor(thumbnail, grey, cv::COLOR_RGB2GRAY);
    else
        grey = thumbnail;
    cv::GaussianBlur(grey, soft, {}, 2);
    cv::Mat rest;
    cv::absdiff(grey, soft, rest);
    cv::blur(rest, rest, {9, 9});
    const auto share = [&](const cv::Mat& mask) {
        return float(cv::countNonZero(mask)) / float(mask.total());
    };
    const cv::Mat light = (grey > 90) & (grey < 250), calm = rest < 2;
    out.bright = share(light);
    out.smooth = share(calm);
    const float sharp = float(std::clamp(aperture / 16, 0.3, 1.0));
    out.score = share(cv::Mat(light & calm)) * (aperture > 0 ? 0.7f + 0.3f * sharp : 0.85f);
    return out;
}

}  // namespace gq::find
