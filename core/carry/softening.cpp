#include "core/carry/softening.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::carry {

Softening::Softening(float sigma) {
    constexpr float kLeast = 0.3f;
    if (sigma >= kLeast)
        m_kernel =
            cv::getGaussianKernel(int(std::lround(8 * sigma + 1)) | 1, double(sigma), CV_32F);
}

ImageF Softening::operator()(const ImageF& plane) const {
    if (m_kernel.empty()) return plane.clone();
    ImageF out;
    cv::sepFilter2D(plane, out, CV_32F, m_kernel, m_kernel, {-1, -1}, 0, cv::BORDER_CONSTANT);
    return out;
}

float sigmaAt(float spread, double smallest, double aperture) {
    if (smallest <= 0 || aperture <= 0 || aperture >= smallest) return 0;
    return spread * float(std::sqrt(1 / (aperture * aperture) - 1 / (smallest * smallest)));
}

}  // namespace gq::carry
