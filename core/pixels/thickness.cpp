#include "core/pixels/thickness.h"

#include <opencv2/imgproc.hpp>

namespace gq {

double inscribedRadius(const Region& region) {
    Mask padded;
    cv::copyMakeBorder(region.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    ImageF inwards;
    cv::distanceTransform(padded, inwards, cv::DIST_L2, 3);
    double most = 0;
    cv::minMaxLoc(inwards, nullptr, &most);
    return most;
}

}  // namespace gq
