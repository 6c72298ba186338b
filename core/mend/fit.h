#pragma once
#include "core/mend/mend.h"

namespace gq::mend {

/// A blemish's own edge: that of dust on a film or a print is in focus; that of dust before a
/// sensor, of foxing and of stains is not.
enum class Edge { Sharp, Soft };

/// The mend that covers a found blemish: its outline grown just past the blemish's edge, with a
/// softness to match.
///
/// A soft shadow reaches past the outline it was found with. In calm surroundings the outline grows
/// (by the blemish's thickness, at most 14 px) until the tone just outside first lies no more to
/// the blemish's side of the far ring's plane, within three standard errors or 0.4 %; in busy ones
/// it grows by 2 px. Soft edges blend over a pixel more than sharp ones.
/// Checked  on 14 photographs worn as film and as prints: what is found and mended gains 16 to 20
///          dB, with half to two thirds as much changed beside it as by blending over two pixels.
/// Shapes   `pixels` of 16 bits; `blemish` in its coordinates.
/// Threads  re-entrant.
[[nodiscard]] Mend fitted(const Image& pixels, const Region& blemish, Edge edge);

}  // namespace gq::mend
