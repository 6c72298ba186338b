#pragma once
#include "core/mend/mend.h"

namespace gq::mend {

/// The mend that covers a found blemish: its outline grown just past the blemish's edge, with a
/// softness to match.
///
/// A soft shadow reaches past the outline it was found with. In calm surroundings the outline grows
/// (at most 14 px) until the tone just outside is that of the far ring's plane, within three
/// standard errors or 0.4 %; in busy ones it grows by 2 px.
/// Shapes   `pixels` of 16 bits; `blemish` in its coordinates.
/// Threads  re-entrant.
[[nodiscard]] Mend fitted(const Image& pixels, const Region& blemish);

}  // namespace gq::mend
