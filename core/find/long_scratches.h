#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// How often a picture is halved before long scratches are looked for.
[[nodiscard]] int scratchHalvings(const Size& size);

/// What makes a line: the mean of its ridge along it, in noise units clipped at 3.
struct LineBounds {
    float agreed;      ///< of any line; more is asked where the picture itself has straight edges
    float folded = 0;  ///< of a light one between a light and a dark side, a fold of paper; 0 =
                       ///< folds are not asked for
};
inline constexpr LineBounds kLinesOfFilm{1.05f}, kLinesOfPaper{1.9f, 0.8f};

/// Scratches along the film, upright or level within 8 degrees, found by adding up a thin ridge
/// over long windows: ones too faint to stand out at any single place, and ones that cross busy
/// detail. Each comes back as one finding with its whole length.
/// Shapes: 16-bit grey or colour. Cost: about 30 passes over the picture at half size or less.
/// Threads: parallel inside; equal bits for any number.
[[nodiscard]] std::vector<Finding> longScratches(const Scales& picture, Polarity polarity,
                                                 const LineBounds& bounds, std::stop_token stop);

}  // namespace gq::find
