#pragma once
#include "sim/view.h"

namespace gq::sim {

/// Height of the ground above the sea (negative under water) at a place, m.
/// `detail` is the smallest feature wanted, m.
[[nodiscard]] float groundHeight(float east, float north, float detail);

/// Distance along the view axis of the first ground or sea under each pixel, m; 0 where sky shows.
/// Columns are marched outward and filled from below, nearest first.
[[nodiscard]] ImageF renderDepth(const View& view);

/// Paints land and sea over `picture` (CV_32FC3, sky already in it) where `depth` is not 0.
void shadeGround(const View& view, const ImageF& depth, ImageF& picture);

}  // namespace gq::sim
