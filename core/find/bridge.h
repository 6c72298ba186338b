#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/finding.h"
#include "core/pixels/image.h"

namespace gq::find {

/// Puts the crumbs of a faint line together: thin findings of one polarity, up to 14 px apart,
/// between which the picture shows the line going on, become one finding that covers the gaps too.
/// The way over a gap is the cheapest along the ridges of the tone.
/// Source   ridges by the Hessian: Lindeberg, Int. J. Computer Vision 30(2), 1998; ways: Dijkstra,
///          Numerische Mathematik 1, 1959.
/// Shapes   `pixels` of 16 bits, grey or colour; `all` as `joined` leaves them, whose order stays.
/// Threads  parallel inside; equal bits for any number of threads. Stopped: nothing of use.
[[nodiscard]] std::vector<Finding> bridged(std::vector<Finding> all, const Image& pixels,
                                           Origin origin, std::stop_token stop = {});

}  // namespace gq::find
