#pragma once
#include "sim/view.h"

namespace gq::sim {

/// Draws the weather station (house, mast with stays, instrument screen, fence) over `picture`
/// where nothing nearer in `depth` hides it.
void drawStation(const View& view, const ImageF& depth, ImageF& picture);

}  // namespace gq::sim
