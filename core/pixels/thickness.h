#pragma once
#include "core/pixels/region.h"

namespace gq {

/// Radius of the largest circle inside a region, px: half its thickness where it is thickest.
/// Threads: re-entrant.
[[nodiscard]] double inscribedRadius(const Region& region);

}  // namespace gq
