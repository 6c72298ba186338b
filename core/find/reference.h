#pragma once
#include "core/pixels/image.h"

namespace gq::find {

/// How well a frame shows the sensor's dust.
struct Suitability {
    float bright = 0;  ///< share of the picture that is light but not burnt out
    float smooth = 0;  ///< share without detail of its own
    float score = 0;   ///< 0..1; small apertures draw dust sharper and count a little more
};

/// From a small 8-bit picture of the frame; `aperture` as f-number, 0 = not told.
[[nodiscard]] Suitability suitability(const Image8& thumbnail, double aperture);

}  // namespace gq::find
