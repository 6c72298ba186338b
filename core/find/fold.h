#pragma once
#include "core/pixels/region.h"

namespace gq::find {

/// True if a straight line's two sides differ in tone close by and not farther out, alike along
/// nearly all of it, as those of folded paper do: one side is turned to the light. Sides of a pole
/// hardly differ, those of an edge do farther out too. False for lines under 300 px.
/// `tone`: 0..1; `line`: not empty, in its pixels. Cost: O(length). Threads: re-entrant.
[[nodiscard]] bool foldedAlong(const ImageF& tone, const Region& line);

}  // namespace gq::find
