#pragma once
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/image.h"

namespace gq::find {

/// Follows sure lines (confidence 0.5 and over, at least 24 px long) on beyond both ends as far as
/// they can be told, at most 30 px, where they have become too faint to be found by themselves.
/// Shapes   `pixels` of 16 bits, grey or colour. Threads: parallel inside; equal bits for any
///          number of threads.
void followEnds(std::vector<Finding>& all, const Image& pixels, std::stop_token stop = {});

}  // namespace gq::find
