#pragma once
#include <vector>

#include "core/find/residual.h"
#include "core/pixels/region.h"

namespace gq::find {

/// Connected places of one level that stand out; `labels` holds their number from 1, 0 elsewhere.
struct Candidates {
    cv::Mat labels;               ///< CV_32S
    std::vector<Region> regions;  ///< regions[i] has label i + 1; level coordinates
};

/// Hysteresis on residual / noise: pixels above a low threshold whose component reaches a high one,
/// trimmed to those above a third of their own component's peak.
/// `easing` scales both thresholds (1 = default, lower finds fainter ones).
[[nodiscard]] Candidates candidatesOf(const Residual& r, Polarity polarity, Origin origin,
                                      float easing);

}  // namespace gq::find
