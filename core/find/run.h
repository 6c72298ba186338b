#pragma once
#include <vector>

#include "core/pixels/region.h"

namespace gq::find {

/// The middle line of a long shape from one end to the other, a point about every `step` px; of a
/// branching one the longest way through it. Empty for an empty region, one point for a dot.
/// Cost: O(box area).
[[nodiscard]] std::vector<PointF> runOf(const Region& region, int step = 6);

/// Length of a run, px.
[[nodiscard]] float lengthOf(const std::vector<PointF>& run);

}  // namespace gq::find
