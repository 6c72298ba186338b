#pragma once
#include <stop_token>

#include "core/render/composition.h"
#include "core/series/series.h"

namespace gq::render {

/// What Find sees at a mended place and the frame does not know of yet: findings above the line
/// that meet the mend's footprint grown by 3 px, searched in a window around it.
/// Shapes   `mended` has `bits` a channel.
/// Errors   Cancelled.
/// Checked  on 300 visible blots over photographs, half of each mended: three in ten are said, and
///          of those mended whole 1 to 6 in 100.
[[nodiscard]] Result<std::vector<find::Finding>> remnants(const Composition& mended, int bits,
                                                          const series::Frame& frame,
                                                          const series::MendEntry& mend,
                                                          const find::FindPlan& plan,
                                                          std::stop_token stop = {});

}  // namespace gq::render
