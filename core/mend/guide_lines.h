#pragma once
#include <vector>

#include "core/mend/patch_match.h"
#include "core/pixels/region.h"

namespace gq::mend {

inline constexpr float kGuideWidth = 6;  ///< px to either side of a guide, at full size

/// Lays lines into `level.guide`, `level.beside` and `level.lines`, along which edges are to go
/// through the hole. A line drawn by hand is first moved onto the edge that it means: where it
/// leaves the hole at both ends, at most 8 px aside, the pair of places is taken at which the
/// colours step most alike. It is prolonged at both ends, so that there is something to follow
/// outside the hole. The first 255 lines count; those of under two points are ignored.
void layGuides(Level& level, const std::vector<std::vector<PointF>>& lines);

}  // namespace gq::mend
