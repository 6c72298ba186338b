#pragma once
#include <vector>

#include "core/mend/patch_match.h"
#include "core/pixels/region.h"

namespace gq::mend {

/// Guides that the picture asks for itself: straight edges that run up to the hole and go on, with
/// the same step of colours, in line on its other side or from a corner inside it. At most four,
/// the strongest first, none crossing another.
/// Source   edges: Canny, IEEE PAMI 8(6), 1986; straight ones: Matas, Galambos, Kittler, Computer
///          Vision and Image Understanding 78(1), 2000; both by OpenCV.
[[nodiscard]] std::vector<std::vector<PointF>> edgeGuides(const Level& level);

}  // namespace gq::mend
