#pragma once
#include <optional>
#include <vector>

#include "core/mend/window.h"

namespace gq::mend {

/// The picture under a line, as far as it shows through.
struct SeenThrough {
    std::vector<Vec4> values;  ///< a place: the picture without the line
    std::vector<float> trust;  ///< a place: 0 = what lies there is better made anew, 1 = kept
};

/// A scratch along the film dims or lifts the light alike over long stretches, while the picture
/// under it changes from pixel to pixel: the median departure of log light from what lies on both
/// sides, over 65 px along the line, is the line's own, and is taken off. It is drawn in as far as
/// the same is seen beside the line. It is trusted where detail is left in the line as it is beside
/// it (an opaque hair leaves none), where it leaves less than what the sides fail to tell of the
/// picture, and not under other mends.
/// Shapes   `inside`: the line's pixels, like the window; the window has no hole there. `places`:
///          pixels asked for, window coordinates.
/// None     for what is not straight along a side of the picture, within 8 degrees, and 96 px long.
[[nodiscard]] std::optional<SeenThrough> seeThrough(const Window& window, const Mask& inside,
                                                    const std::vector<Point>& places);

}  // namespace gq::mend
