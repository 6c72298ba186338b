#pragma once
#include <vector>

#include "core/pixels/region.h"

namespace gq::mend {

/// Cuts a hole's pixels into pieces about `across` px wide, outermost first: seeds picked greedily,
/// then two rounds of moving each to the mean of the pixels nearest to it (Lloyd 1982).
[[nodiscard]] std::vector<std::vector<Point>> split(const std::vector<Point>& hole, int across);

}  // namespace gq::mend
