#pragma once
#include "core/pixels/image.h"

namespace gq::sim {

/// A weather instrument on a painted board in linear light, CV_32FC3: a dial with a hand or, for
/// odd `seed`, a bank of thermometers. Lit from one side, with a little depth of field.
[[nodiscard]] ImageF renderInstrument(const Size& size, std::uint32_t seed);

}  // namespace gq::sim
