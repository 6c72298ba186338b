#pragma once
#include "sim/film.h"
#include "sim/wear.h"

namespace gq::sim {

/// The fourth channel of a film scan, CV_16UC1: dust stops long waves, dyes do not, silver does;
/// the lens focuses them a little elsewhere, and some of the red leaks in.
[[nodiscard]] Image infraredOf(const Worn& worn, Stock stock, std::uint32_t seed);

}  // namespace gq::sim
