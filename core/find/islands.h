#pragma once
#include <array>
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// What tells an opaque flake from a light or a window. Tones 0..1, as if the island were light;
/// lengths in px of the level. "Around" is a ring of 2 to 8 px outside, "rim" one of 1 to 2.5 px.
enum IslandFeature : int {
    IslandStep,          ///< of its tone to what is around
    IslandSpread,        ///< of its own tones
    IslandSpreadOfStep,  ///< that by the step
    IslandRestless,      ///< deviation about its least calm places
    AroundSpread,
    AroundRestless,
    IslandTone,
    LighterOverall,  ///< share of the picture
    AlikeOverall,    ///< share of the picture
    LightAround,     ///< share of thrice its box: what is as light
    IslandColour,
    RimLeast,  ///< step of its tone to the rim: 5th, 20th, 50th of a hundred
    RimLow,
    RimMiddle,
    RimLowOfStep,
    RimMiddleOfStep,
    IslandArea,  ///< log
    IslandDepth,
    IslandRoundness,   ///< of the largest disc in it by its area
    IslandRaggedness,  ///< of its outline's length squared by its area; 1 = a disc
    IslandFill,        ///< of its hull
    IslandAtEdge,      ///< 1 = it touches the picture's edge
    IslandDark,        ///< 1 = darker than what is around
    kIslandFeatureCount
};
using IslandFeatures = std::array<float, kIslandFeatureCount>;

/// A place of one flat tone with a step to what is around it, on all sides.
struct Island {
    Region region;  ///< of the picture halved `Islands::level` times
    IslandFeatures features{};
    float noise = 0;  ///< deviation within it
};
struct Islands {
    int level = 0;
    std::vector<Island> all;
};

/// All islands of a picture that are lighter or darker than what is around, up to 0.3 % of it in
/// area, without large ones cut straight; the picture is halved until it is under 3600 px long.
/// Found by their flatness, they do not depend on what a window around them holds: a flake on an
/// edge between dark and light is as plain as one on sky. Threads: parallel inside; equal bits for
/// any number. Stopped, it gives nothing of use.
[[nodiscard]] Islands islandsOf(const Scales& picture, Polarity polarity,
                                std::stop_token stop = {});

/// Large flakes and specks of film and prints: islands that a forest trained for them
/// (tools/train) takes for such, with its confidence; those under `least` are left out.
/// Cancelled: nothing of use.
[[nodiscard]] std::vector<Finding> flakes(const Scales& picture, Origin origin, Polarity polarity,
                                          float least, std::stop_token stop = {});

}  // namespace gq::find
