#pragma once
#include <vector>

#include "core/find/finding.h"

namespace gq::find {

/// Takes out what is a film frame's own corner against bare film or the holder: beyond two sides of
/// its box all is of the other tone, and beyond the other two as it is itself.
/// Shapes  `pixels` of 16 bits.
void leaveOutCorners(std::vector<Finding>& all, const Image& pixels);

}  // namespace gq::find
