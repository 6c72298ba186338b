#pragma once
#include "core/pixels/image.h"

namespace gq::sim {

enum class Stock { Colour, Silver };

/// Density above bare film, CV_32FC3: a straight line of gamma 0.6 with a toe, dyes that overlap a
/// little, and grain that grows with the root of density. `light` is linear, CV_32FC3.
[[nodiscard]] ImageF exposed(const ImageF& light, Stock stock, std::uint32_t seed);

/// What a scanner reads of the film, sRGB encoded, CV_16UC3, with a rim of bare film `rim` px wide
/// (orange on colour stock).
[[nodiscard]] Image scanned(const ImageF& density, Stock stock, int rim);

}  // namespace gq::sim
