#pragma once
#include "core/series/series.h"

namespace gq::carry {

/// What was painted over one frame as it lies over another: alike where both are stored in the same
/// size, else by way of the sensor (smaller or turned pictures of it). Null where there is nothing
/// painted or the frames share no sensor.
[[nodiscard]] series::GuidesPtr carriedGuides(const series::Frame& from, const series::Frame& to);

}  // namespace gq::carry
