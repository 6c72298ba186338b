#pragma once
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/look.h"

namespace gq::find {

/// True where a network was trained for such candidates: dark marks on sensors.
[[nodiscard]] bool hasCloserLook(Origin origin, Polarity polarity);

/// Log odds of a blemish by a small convolutional network (37,000 weights) that sees each
/// candidate with its surroundings; what shape and texture tell that sums do not.
/// Threads: parallel inside, equal bits for any number; re-entrant. Cost: about 0.3 ms a look.
/// Source: trained by tools/train; `hasCloserLook` must hold.
[[nodiscard]] std::vector<float> closerLook(const std::vector<Look>& looks);

}  // namespace gq::find
