#pragma once
#include "core/mend/patch_match.h"

namespace gq::mend {

/// The hole's pixels, and those that are never copied from, as means of what surrounds them, from
/// the rim inwards. Where guide lines part the hole, each part is filled from its own rim.
void roughFill(Level& level);

}  // namespace gq::mend
