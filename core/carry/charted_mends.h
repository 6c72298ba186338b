#pragma once
#include "core/carry/chart.h"

namespace gq::carry {

/// A frame whose mends of these findings divide out the shadow that the chart knows there, where
/// the finding is of the chart (`charted`), the frame shows that shadow, and dividing covers all
/// that was found. Each place of the chart serves one mend; all others stay as they are.
/// `pixels` are the frame's own. Threads: re-entrant. Frames of another camera come back unchanged.
[[nodiscard]] series::Frame dividedByChart(const series::Frame& frame, const Image& pixels,
                                           const DustChart& chart,
                                           const std::vector<series::Id>& findings);

}  // namespace gq::carry
