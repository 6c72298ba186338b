#pragma once
#include <stop_token>
#include <vector>

#include "core/mend/patch_store.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::render {

/// The mend that suits a finding's kind and shape. Threads: re-entrant.
[[nodiscard]] mend::Mend mendFor(const Image& pixels, const find::Finding& finding);

/// The frame with a fitted mend for each of the named findings that has none yet: large stains are
/// evened out, and first; lines are spanned, thick cores rebuilt, all else healed, with the
/// softness and source that leave the least seam. What was made to see that is kept in `made`.
/// Threads: parallel inside. Errors: Cancelled; `nextId` is as it was then.
[[nodiscard]] Result<series::Frame> withMends(const Image& pixels, const series::Frame& frame,
                                              const std::vector<series::Id>& findings, float line,
                                              series::Id& nextId, mend::PatchStore* made = nullptr,
                                              const Progress& progress = {},
                                              std::stop_token stop = {});

/// Ids of open findings at or above the line, in the order of the list.
[[nodiscard]] std::vector<series::Id> openAbove(const series::Frame& frame, float line);

}  // namespace gq::render
