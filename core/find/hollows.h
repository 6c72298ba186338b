#pragma once
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// Where a level sees no more of a large shadow than its rim, and a coarser one does not see it
/// for the picture around it: the whole blot that goes on from a sure finding, as dark against a
/// wider background, added as a finding as sure as that one. Returns whether there is one.
/// `easing` of the whole picture, empty = none: where it is 0, shielded or out of bounds, no whole
/// goes. Units: full-size pixels. Threads: parallel inside; equal bits for any number.
[[nodiscard]] bool addWholes(std::vector<Finding>& all, const Scales& picture,
                             const ImageF& easing = {}, std::stop_token stop = {});

}  // namespace gq::find
