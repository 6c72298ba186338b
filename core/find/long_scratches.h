#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// How often a picture is halved before long scratches are looked for.
[[nodiscard]] int scratchHalvings(const Size& size);

/// What `longScratches` calls a line on film.
inline constexpr float kAgreedOnFilm = 1.05f;

/// Scratches along the film, upright or level within 8 degrees, found by adding up a thin ridge
/// over long windows: ones too faint to stand out at any single place, and ones that cross busy
/// detail. Each comes back as one finding with its whole length.
/// `agreed`: mean of the ridge along a line, in noise units clipped at 3, that makes it
/// one; more where the picture itself has straight edges. `folded`: the same where a light and a
/// dark side besides tell a fold of paper (0 = folds are not asked for). Shapes: 16-bit grey or
/// colour. Cost: about 30 passes over the picture at half size or less. Threads: parallel inside;
/// equal bits for any number.
[[nodiscard]] std::vector<Finding> longScratches(const Scales& picture, Polarity polarity,
                                                 float agreed, std::stop_token stop,
                                                 float folded = 0);

}  // namespace gq::find
