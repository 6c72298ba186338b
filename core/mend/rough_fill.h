#pragma once
#include "core/mend/patch_match.h"

namespace gq::mend {

/// Fills the hole, and what is never copied from, with means of what surrounds it, from the rim
/// inwards; where guide lines part the hole, each part with the nearest pixels of its own rim.
void roughFill(Level& level);

}  // namespace gq::mend
