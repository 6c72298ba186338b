#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/pixels/image.h"

namespace gq::find {

/// A mark seen in a picture that was halved `level` times, as a finding of the whole one.
[[nodiscard]] Finding markOf(const Region& small, int level, const Size& picture, Kind kind,
                             Polarity polarity, float contrast);

/// Stains and foxing on prints of one tone: in such a print log(blue / red) follows from the tone
/// alone; where it departs from that curve, something has tinted the paper. Nothing is proposed on
/// prints in full colour, where the curve says nothing.
/// Contrast is the departure in log units; softness the width of the rim.
[[nodiscard]] std::vector<Finding> stains(const Image& pixels, std::stop_token stop);

/// Missing corners and edges of prints: flat, brighter than the paper, open to the picture's edge.
[[nodiscard]] std::vector<Finding> losses(const Image& pixels, std::stop_token stop);

}  // namespace gq::find
