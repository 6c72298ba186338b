#pragma once
#include <array>
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// What tells stains from the picture's own colours. Tints are in log units.
enum StainFeature : int {
    TintDepth,       ///< how much yellower than the tone asks for, mean
    TintOverLeast,   ///< log of it over the least that is a candidate
    TintOverSpread,  ///< over the usual departure of the picture
    TintInside,      ///< deviation within, over the depth
    TintAround,      ///< deviation in the surroundings, over the depth
    TintStep,        ///< from the surroundings, over the depth
    GreenStep,       ///< the same step of log(green / red), over it: a dye has its own
    TintTone,        ///< correlation of tint and tone, within and around
    StainTone,       ///< log light, mean
    StainDarkens,    ///< than its close surroundings, log light
    StainArea,       ///< log of its share of the picture
    StainFill,       ///< of its box
    StainRim,        ///< see Edge
    StainWidth,      ///< see Edge; px of the coarse view
    CrossingShare,   ///< see Crossing
    CrossingTone,
    CrossingUnlike,
    StainAtEdge,        ///< of the picture: 0 or 1
    TintSpread,         ///< the picture's usual departure
    TintTail,           ///< the departure that 2 % exceed, over it
    TintOfPicture,      ///< log(blue / red), median
    TintedOverall,      ///< log of the share of the picture that is a candidate
    CandidatesOverall,  ///< log of their number
    kStainFeatureCount
};

/// A place yellower than its tone asks for.
struct Tinted {
    Region region;  ///< of the coarse view
    std::array<float, kStainFeatureCount> features{};
};

struct TintedPlaces {
    int level = 0;  ///< how often the picture was halved
    std::vector<Tinted> all;
};

/// Candidates for stains and foxing. In a print of one tone log(blue / red) follows from the tone
/// alone; where it departs from that curve, something has tinted the paper, or is a thing of
/// another colour. The fuller a picture's colours, the less the curve says: where the usual
/// departure is over 0.12 there are no candidates. Threads: re-entrant. Stopped: none.
[[nodiscard]] TintedPlaces tintedPlaces(const Scales& picture, std::stop_token stop);

/// Those of them that a small forest takes for stains with at least this confidence. Contrast is
/// the departure.
/// Threads: re-entrant. Cancelled: nothing. Source: trained by tools/train.
[[nodiscard]] std::vector<Finding> stains(const Scales& picture, float least, std::stop_token stop);

}  // namespace gq::find
