#pragma once
#include <stop_token>

#include "core/mend/window.h"

namespace gq::mend {

/// A soft shadow measured in one frame.
struct Shade {
    ImageF gain;        ///< like the window: share of light let through, 0..1
    bool fits = false;  ///< enough light shines through for the picture to come back
};

/// Measures the share of light that dust lets through from this frame alone: the mean departure of
/// log luminance from a plane and membrane through its surroundings, by distance to the outline, so
/// that the picture under the shadow does not enter it; never above 1, never rising inwards. It is
/// drawn in towards 1 as far as the same outline would seem to hold light back beside the shadow.
/// Shapes   `inside`: the blemish's pixels, like the window; the window has no hole there.
/// Errors   Cancelled.
[[nodiscard]] Result<Shade> measureShade(const Window& window, const Mask& inside,
                                         std::stop_token stop);

}  // namespace gq::mend
