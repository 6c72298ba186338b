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
/// trimmed to those above a third of their own component's peak. Permissive on purpose: what is
/// dirt and what is picture is decided by the classifier.
/// Peaks count `strength` times as high (1 = default), and times the `easing` of their place
/// (CV_32F like the level, or empty = 1 everywhere; 0 shuts a place out). Outlines depend on
/// neither: below 1 the strongest of the same candidates are left, over 1 fainter ones come beside
/// them. Stopped, it gives nothing of use.
[[nodiscard]] Candidates candidatesOf(const Residual& r, const Level& level, Origin origin,
                                      float strength, const ImageF& easing, std::stop_token stop);

}  // namespace gq::find
