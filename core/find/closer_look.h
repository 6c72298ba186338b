#pragma once
#include <span>
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/look.h"

namespace gq::find {

/// True where a network was trained for such candidates: all but light marks on sensors.
[[nodiscard]] bool hasCloserLook(Origin origin, Polarity polarity);

/// A small convolutional network, as an ONNX file holds it.
using LookNetwork = std::span<const unsigned char>;

/// The trained one; `hasCloserLook` must hold. There are two: for sensors, and for film and prints
/// (light or dark marks, which look alike once turned the same way).
[[nodiscard]] LookNetwork lookNetworkFor(Origin origin);

/// Log odds of a blemish by a network that sees each candidate with its surroundings; what shape
/// and texture tell that sums do not.
/// Threads: parallel inside, equal bits for any number; re-entrant. Cost: about 0.2 ms a look.
/// Source: trained by tools/train.
[[nodiscard]] std::vector<float> closerLook(const std::vector<Look>& looks, LookNetwork network,
                                            std::stop_token stop);

}  // namespace gq::find
