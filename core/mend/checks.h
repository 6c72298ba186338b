#pragma once
#include <algorithm>
#include <optional>

#include "core/mend/patch.h"

namespace gq::mend {

/// What a look at a finished mend says.
struct Checks {
    float seam = 0;    ///< mean step over the outline over that of the same outline beside it
    float repeat = 0;  ///< likeness of the fine detail to that of a place in sight, 0..1
    [[nodiscard]] bool seamShows() const { return seam > kSeam; }
    [[nodiscard]] bool repeats() const { return repeat > kRepeat; }
    /// How much is seen of it by the worse of both; over 1 it is.
    [[nodiscard]] float shown() const { return std::max(seam / kSeam, repeat / kRepeat); }

  private:
    static constexpr float kSeam = 1.35f, kRepeat = 0.75f;
};

/// Checks a patch laid in `pixels` (16 bits, with all mends): a repeat may be of its source, or of
/// another mend that took the same.
/// Reads no more than `checkBox`. Threads: re-entrant.
[[nodiscard]] Checks checked(const Excerpt& pixels, const Mend& mend, const Patch& patch);

/// The box of pixels that `checked` looks at.
[[nodiscard]] Rect checkBox(const Mend& mend, const Size& picture);

/// What an outline leaves outside of the thing it is drawn around: pixels within 8 px, touching the
/// outline, whose colours lie nearer to the inside's than to those of the surroundings 8 to 18 px
/// out. Empty when the outline is whole, or inside and surroundings are too alike to tell.
/// On 438 blots, flecks and threads laid on 30 photographs it said so of 87 in 100 that were cut
/// through, and of 4 in 100 that were not.
/// `pixels` without the mend. Threads: re-entrant.
[[nodiscard]] Region leftOutside(const Image& pixels, const Region& outline);

/// The parts of a mend that crosses two materials, split where they meet: two tones that explain
/// most of what surrounds the region. Nothing when there is one material.
[[nodiscard]] std::optional<std::pair<Region, Region>> splitByMaterial(const Image& pixels,
                                                                       const Region& region);

}  // namespace gq::mend
