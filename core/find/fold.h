#pragma once
#include "core/pixels/region.h"

namespace gq::find {

/// True if a straight line's two sides differ in tone close by and not farther out, alike along all
/// of it, as those of folded paper do: one side is turned to the light. A pole or a horizon has the
/// difference farther out too, or bears it in places only.
/// `tone`: 0..1. Cost: O(length). Threads: re-entrant.
[[nodiscard]] bool foldedAlong(const ImageF& tone, const Region& line);

}  // namespace gq::find
