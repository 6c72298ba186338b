#pragma once
#include "core/pixels/image.h"

namespace gq::carry {

/// A Gaussian blur, its kernel made once.
class Softening {
  public:
    explicit Softening(float sigma);  ///< px; under 0.3 it leaves a plane as it is
    [[nodiscard]] ImageF operator()(const ImageF& plane) const;

  private:
    cv::Mat m_kernel;
};

/// Sigma, px, from the smallest opening to another, both f-numbers; 0 where one is not told.
[[nodiscard]] float sigmaAt(float spread, double smallest, double aperture);

}  // namespace gq::carry
