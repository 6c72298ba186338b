#pragma once
#include "core/mend/patch_match.h"

namespace gq::mend {

/// Joins what was copied to a hole from different places, and joins it with its surroundings: steps
/// from pixel to pixel become those of the places copied from, the more strictly the nearer to the
/// rim, where they show most; tones stay near the copies'.
///
/// Every pixel of the hole bears its own match's value. Colours only; the texture plane is left.
/// Stopped early it leaves the hole less well joined.
/// Threads  parallel inside, equal bits for any number.
/// Source   Perez, Gangnet, Blake, ACM TOG 22(3), 2003 (Poisson's equation), with a weak pull to
///          the copies, by over-relaxation on a chequerboard (Young, 1954).
void joinCopies(Level& level, const PatchMatch& match, std::stop_token stop);

}  // namespace gq::mend
