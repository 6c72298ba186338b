#pragma once
#include "sim/view.h"

namespace gq::sim {

/// Clear sky towards a line of sight, linear light.
[[nodiscard]] Colour clearSky(const View& view, const Sight& s);
/// Colour of the far haze at the horizon.
[[nodiscard]] Colour hazeColour(const View& view, float azimuth);
/// Direct sunlight and light of the whole sky on level ground.
[[nodiscard]] Colour sunlight(const View& view);
[[nodiscard]] Colour skylight(const View& view);

/// Sky with clouds over the whole picture down to the horizon, CV_32FC3. Clouds are worked out at
/// half size (they are soft) and laid over an exact gradient.
[[nodiscard]] ImageF renderSky(const View& view);

}  // namespace gq::sim
