#pragma once
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// A picture small enough to see broad marks in, and how often it was halved.
struct Coarse {
    Image pixels;
    int level = 0;
};

/// How often a picture is halved until its longer side is under twice `side` px.
[[nodiscard]] int halvingsTo(int side, const Size& picture);
/// Halved as often.
[[nodiscard]] Coarse coarse(const Scales& picture, int side);

/// A mark seen in a picture that was halved `level` times, as a finding of the whole one.
[[nodiscard]] Finding markOf(const Region& small, int level, const Size& picture, Kind kind,
                             Polarity polarity, float contrast);

}  // namespace gq::find
