#pragma once
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// Stains and foxing on prints of one tone: in such a print log(blue / red) follows from the tone
/// alone; where it departs from that curve, something has tinted the paper. Nothing is proposed on
/// prints in full colour, where the curve says nothing. What is no stain but a thing of another
/// colour betrays itself along its outline, where the tint comes gradually or the tone changes too;
/// it stays below the line.
/// Contrast is the departure in log units.
/// Threads: re-entrant. Cancelled: what was found so far, or nothing.
[[nodiscard]] std::vector<Finding> stains(const Scales& picture, std::stop_token stop);

}  // namespace gq::find
