#pragma once
#include "core/mend/membrane.h"
#include "core/mend/source_search.h"

namespace gq::mend {

/// Several sources made into one.
struct Blend {
    std::vector<Vec4> together;  ///< of all sources, a value a pixel of the piece
    std::vector<Vec4> best;      ///< of the first one alone
};

/// Sources moved to the place's tone by `membrane`, added with the shares that together come
/// nearest to the ring once tone and tilt are taken out. Shares are damped (0.5 of the mean
/// energy), so that none is trusted far beyond what it explains, and add up to 1.
/// Source   shares as in locally linear embedding: Roweis, Saul, Science 290, 2000.
[[nodiscard]] Blend blended(const Window& w, const Ring& ring, const std::vector<Source>& sources,
                            const Membrane& membrane, const std::vector<Point>& piece);

}  // namespace gq::mend
