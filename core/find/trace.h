#pragma once
#include <vector>

#include "core/pixels/region.h"

namespace gq::find {

/// A line followed from one of its points.
struct Trace {
    std::vector<PointF> path;  ///< from end to end; empty when there is no line at the place
    float width = 0;           ///< mean, px
};

/// Follows a wire, hair or scratch through `at` to both of its ends: from the strongest ridge
/// within 4 px, step by step along it, each step drawn to the middle of the line, over gaps of up
/// to 8 px. At most 4000 px each way.
/// Shapes   `pixels` of 16 bits. Threads: re-entrant.
[[nodiscard]] Trace traceLine(const Image& pixels, PointF at);

}  // namespace gq::find
