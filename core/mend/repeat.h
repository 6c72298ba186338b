#pragma once
#include "core/pixels/excerpt.h"
#include "core/pixels/region.h"

namespace gq::mend {

/// How far around a place the eye takes it in together: six times its longer side, at most 400 px.
[[nodiscard]] int sightOf(const Rect& place);

/// How alike the fine detail of a region and of the likeliest place within sight are: normalised
/// cross-correlation, 0..1. 0 for what is under 20 px or has no detail, and where other places are
/// nearly as alike, since a texture that is alike everywhere hides its repeats.
/// Cost     that of two Fourier transforms of the box.
/// Threads  re-entrant.
[[nodiscard]] float likenessNearby(const Excerpt& pixels, const Region& region);

}  // namespace gq::mend
