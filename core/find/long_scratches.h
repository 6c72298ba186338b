#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/line_features.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// How often a picture is halved before long scratches are looked for.
[[nodiscard]] int scratchHalvings(const Size& size);

/// A straight line, upright or level within 8 degrees.
struct LongLine {
    Region region;  ///< of the picture halved `LongLines::level` times
    LineFeatures features{};
};
struct LongLines {
    int level = 0;
    std::vector<LongLine> all;
};

/// All such lines of a picture that are lighter or darker than both sides, found by adding up a
/// thin ridge over long windows: ones too faint to stand out at any single place, and ones that
/// cross busy detail. Shapes: 16-bit grey or colour. Cost: about 60 passes over the picture at half
/// size or less. Threads: parallel inside; equal bits for any number. Stopped: nothing of use.
[[nodiscard]] LongLines longLinesOf(const Scales& picture, Polarity polarity,
                                    std::stop_token stop = {});

/// Scratches along the film, folds and straight cracks of prints: lines that a forest trained for
/// them (tools/train) takes for such, with its confidence; those under `least` are left out. Each
/// comes back as one finding with its whole length. Cancelled: nothing of use.
[[nodiscard]] std::vector<Finding> longScratches(const Scales& picture, Origin origin,
                                                 Polarity polarity, float least,
                                                 std::stop_token stop = {});

/// Leaves out the lines that one of the sure `candidates` follows for its whole length: it has the
/// true width and name, of a straight hair for one, and becomes as sure as the line.
void leaveOutFollowed(std::vector<Finding>& found, std::vector<Finding>& candidates,
                      const Size& picture);

}  // namespace gq::find
