#pragma once
#include "core/pixels/excerpt.h"
#include "core/pixels/region.h"

namespace gq::mend {

/// What a scan shows beside its original: the black of a scanner, along the file's
/// edges as far as a plain step of tone, with that soft step. Where `stain` is, none is sought, but
/// for the step's few pixels. It tells nothing of the original.
/// `pixels`: 16 bits. Gives CV_8U of the size of `box`. Threads: re-entrant.
[[nodiscard]] Mask scanBed(const Excerpt& pixels, const Rect& box, const Region& stain);

/// `inside` as if the stain went on beyond the original's edge: with what of the bed lies nearer to
/// it than to clean parts.
[[nodiscard]] Mask goneOn(const Mask& inside, const Mask& bed);

}  // namespace gq::mend
