#pragma once
#include <vector>

#include "core/mend/vec4.h"

namespace gq::mend {

/// A pixel of a ring with all that a source's cost needs, in every lane: its colour, its weight,
/// the weight times two ramps over the ring.
struct RingSample {
    Vec4 target, weight, across, down;
    int index;  ///< of the pixel, in the order of a scan
};

/// What a source differs by from a ring, added up: weighted, along both ramps, squared.
struct RingSums {
    Vec4 sum{}, across{}, down{}, square{};
};

/// Adds up two sources at once, `first` and `second` pixels on from the ring, which takes hardly
/// longer than one where the processor works on eight floats at a time. Equal bits on any
/// processor. Threads: re-entrant.
void addUp(const std::vector<RingSample>& ring, const Vec4* pixels, const int (&shifts)[2],
           RingSums (&sums)[2]);

}  // namespace gq::mend
