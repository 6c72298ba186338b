#pragma once
#include "core/mend/mend.h"
#include "core/pixels/excerpt.h"

namespace gq::mend {

/// The specks inside an area: light and dark places no larger than `sifting.largest` px that depart
/// from the median of their surroundings by at least `sifting.contrast`, and by five deviations of
/// the texture there, each with its soft edge.
/// Shapes   `pixels` of 16 bits; regions are in its coordinates.
/// Threads  re-entrant.
[[nodiscard]] std::vector<Region> specks(const Excerpt& pixels, const Region& area,
                                         const Sifting& sifting);

}  // namespace gq::mend
