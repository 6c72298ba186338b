#pragma once
#include <array>

#include "core/find/candidates.h"

namespace gq::find {

/// A candidate with what surrounds it, as the network of `closer_look.h` sees it: eight planes of
/// kLookSide x kLookSide bytes. Five at 1 : 1, or so much smaller that the candidate takes at most
/// 40 % of the side: departure towards a blemish's tone over the noise of the place; departure off
/// it over the same; the plane itself less its mean, over the same; the share of the way to the
/// blemish's tone; the candidate (255) and its neighbours (100). Three of surroundings three times
/// as wide: departure, plane, candidates.
constexpr int kLookSide = 32, kLookPlanes = 8;
using Look = std::array<uchar, size_t(kLookPlanes* kLookSide* kLookSide)>;

/// Threads: re-entrant. Edges: repeated.
[[nodiscard]] Look lookAt(const Level& level, const Residual& r, const Candidates& all,
                          size_t index);

}  // namespace gq::find
