#pragma once
#include <vector>

#include "core/series/series.h"

namespace gq::render {

/// The frame with a fitted mend for each of the named findings that has none yet: large stains are
/// evened out, and first; lines are spanned, thick cores rebuilt, all else healed, with the
/// softness and source that leave the least seam. Threads: parallel inside.
[[nodiscard]] series::Frame withMends(const Image& pixels, const series::Frame& frame,
                                      const std::vector<series::Id>& findings, series::Id& nextId);

/// Ids of open findings at or above the line, in the order of the list.
[[nodiscard]] std::vector<series::Id> openAbove(const series::Frame& frame, float line);

}  // namespace gq::render
