#pragma once
#include <optional>
#include <utility>
#include <vector>

#include "core/mend/patch_match.h"
#include "core/pixels/region.h"

namespace gq::mend {

inline constexpr int kAside = 8;  ///< px; edges are compared so far to either side of a line
/// px outside the hole where they are looked at.
inline constexpr int kNearest = 3, kFarthest = 16;

/// Where a line leaves the hole.
struct Exit {
    PointF at, out;   ///< `out`: unit vector away from the hole
    float along = 0;  ///< px from the line's start
};

/// A line's first and last exit; nothing if it does not pass through the hole.
[[nodiscard]] std::optional<std::pair<Exit, Exit>> exitsOf(const std::vector<PointF>& line,
                                                           const Mask& hole);

/// How colours step across a line's course outside an exit, at -kAside..kAside px towards `left`, a
/// unit vector. Empty when too little is known there.
[[nodiscard]] std::vector<Vec4> stepsAcross(const Exit& exit, const PointF& left,
                                            const Level& level);

/// Product of two steps of colour, summed over the channels.
[[nodiscard]] float alike(const Vec4& a, const Vec4& b);

}  // namespace gq::mend
