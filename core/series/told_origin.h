#pragma once
#include <optional>
#include <vector>

#include "core/find/find_plan.h"
#include "core/series/series.h"

namespace gq::series {

/// Where pictures come from, as far as their files tell. Pictures of a camera tell an f-number.
/// Scans tell a resolution, and with it the size of what was scanned: a negative or slide at the
/// resolution of film scanners is film, up to what a flatbed covers it is a print. Of film one
/// frame is read: under an orange base or of one tone it is a negative. Where the files tell of a
/// camera or of nothing, three frames are read: with bare orange film around most of them they are
/// negatives, whatever took them. Nothing where neither tells. Threads: re-entrant.
[[nodiscard]] std::optional<find::Origin> toldOrigin(const std::vector<FramePtr>& frames);

}  // namespace gq::series
