#pragma once
#include "sim/wear.h"

namespace gq::sim {

/// Lays one stain on a print (CV_32F, 1 or 3 channels, encoded values 0..1), each in its own way:
/// outline smooth or frayed, edge sharp or soft, rim none or strong, even or cloudy, whole or
/// hollow; brown, grey, faded towards white, bleached, paled or darkened by a power; mixing by
/// light or by encoded values.
[[nodiscard]] WearPiece layStain(ImageF& picture, Dice& dice);

}  // namespace gq::sim
