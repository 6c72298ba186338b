#pragma once
#include <vector>

#include "core/find/finding.h"

namespace gq::find {

/// A line followed from one of its points.
struct Trace {
    std::vector<PointF> path;  ///< from end to end; empty when there is no line at the place
    float width = 0;           ///< mean, px
};

/// Follows a wire, hair or scratch through `at` to both of its ends: from the strongest ridge
/// within 4 px, step by step along it, each step drawn to the middle of the line, around sharp
/// turns and over gaps of up to 10 px. At most 4000 px each way. Shapes   `pixels` of 16 bits.
/// Threads: re-entrant.
[[nodiscard]] Trace traceLine(const Image& pixels, PointF at);

/// Where a line goes on beyond its known end, a point every 2 px; `before` lies on it some px short
/// of the end. Stricter than `traceLine`, since nobody points at it: the line must stand out four
/// times as far as the tones beside it vary.
/// Shapes   `pixels` of 16 bits. Threads: re-entrant.
[[nodiscard]] std::vector<PointF> traceOn(const Image& pixels, PointF before, PointF end,
                                          Polarity polarity);

}  // namespace gq::find
