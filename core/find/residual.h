#pragma once
#include <stop_token>

#include "core/find/find_plan.h"
#include "core/pixels/image.h"

namespace gq::find {

/// One level of a picture with its departure from the background.
struct Residual {
    int level = 0;    ///< pixels here are 2^level full-size pixels wide
    Image colour;     ///< the level's pixels, 16 bits
    ImageF plane;     ///< log luminance (sensor) or luma, a little smoothed
    ImageF residual;  ///< plane minus its background
    ImageF noise;     ///< local scale of the residual, not dragged by single blemishes
};

/// How one origin is looked at, level by level.
struct LevelPlan {
    int level;
    int window;       ///< side of the background's median, px of the level, odd
    float smoothing;  ///< sigma before anything else, px of the level
};
[[nodiscard]] const std::vector<LevelPlan>& levelsOf(Origin origin);

/// Works a level out. `pixels` are the level's own pixels (16 bits).
/// Background: median over the window, of the plane coded in fine steps around a coarse median, so
/// that 8 bits suffice. Noise: mean of |residual| over 61 px, clipped at three times itself.
[[nodiscard]] Residual residualOf(const Image& pixels, const LevelPlan& plan, Origin origin,
                                  std::stop_token stop);

}  // namespace gq::find
