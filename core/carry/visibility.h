#pragma once
#include "core/find/finding.h"

namespace gq::carry {

/// How a place stands out from its surroundings.
struct Visibility {
    float depth = 0;         ///< log light of the ring less that of the inside; positive = darker
    float significance = 0;  ///< depth over the spread of the same measure at places around
    float busy = 0;          ///< that spread
};

/// Measures the region as a template: mean inside less mean of a ring, compared with the same
/// template laid at up to 120 places around it. Robust (median, MAD), so neither an edge near by
/// nor another shadow decides alone.
/// Shapes  `pixels` of 16 bits; `region` in its coordinates.
/// Threads re-entrant.
[[nodiscard]] Visibility visibilityOf(const Image& pixels, const Region& region);

/// The same place with a blemish of another depth.
[[nodiscard]] Visibility ofDepth(Visibility v, float depth);

/// True if the blemish shows: two spreads and 0.5 % of the light; a place that the series knows
/// needs less proof than a new one.
[[nodiscard]] bool shows(const Visibility& v, find::Polarity polarity = find::Polarity::Dark);
/// The same of one that only one frame tells of: four spreads, as few lie in others too.
[[nodiscard]] bool clearlyShows(const Visibility& v, find::Polarity polarity);
/// The same of one that may be dark or light: the lighter needs four spreads, as few are.
[[nodiscard]] bool showsEither(const Visibility& v);

}  // namespace gq::carry
