#pragma once
#include <array>
#include <vector>

#include "core/find/candidates.h"

namespace gq::find {

/// What the classifier looks at, one number each. Ratios where possible, so that they mean the same
/// at any exposure. "Own" is the candidate's mean departure; "near" a ring 1.5..5 px outside it,
/// "far" the next 7 px; lengths in full-size pixels.
enum Feature : int {
    // shape
    LogArea,
    Elongation,
    Length,
    Width,
    EllipseFill,
    Uprightness,
    Scale,
    Ragged,
    WidestPart,
    Straightness,
    // strength
    Own,
    Peak,
    OwnOverNoise,
    PeakOverNoise,
    Opacity,
    PeakOpacity,
    AcrossOverOwn,
    Peakiness,
    // inside
    Unevenness,
    Saturation,
    BackSaturation,
    SaturationChange,
    BackTone,
    Tone,
    ToneExtreme,
    Headroom,
    EdgeSteepness,
    TextureKept,
    SoftCore,
    // rings
    NearContrast,
    NearSpread,
    NearSpreadAbsolute,
    NearGradient,
    NearLike,
    NearOpposite,
    NearRestless,
    NearAcross,
    NearSectorLeast,
    NearSectorMost,
    NearSectorSecond,
    NearSectorEnds,
    NearSectorOpposed,
    FarContrast,
    FarSpread,
    FarSpreadAbsolute,
    FarGradient,
    FarLike,
    FarOpposite,
    FarRestless,
    FarAcross,
    FarSectorLeast,
    FarSectorMost,
    FarSectorSecond,
    FarSectorEnds,
    FarSectorOpposed,
    // windows of 24, 60, 152 px of the level
    MeanSmall,
    RmsSmall,
    TailsSmall,
    MeanMiddle,
    RmsMiddle,
    TailsMiddle,
    MeanLarge,
    RmsLarge,
    TailsLarge,
    GradientSmall,
    GradientMiddle,
    StrongestOther,
    Noise,
    // neighbours
    CountNear,
    CountMiddle,
    CountFar,
    CrowdNear,
    CrowdMiddle,
    CrowdFar,
    AlongOwnLine,
    // the whole picture
    Monochrome,
    OverallNoise,
    OverallCount,
    NearBorder,
    kFeatureCount
};
using Features = std::array<float, kFeatureCount>;

/// Features and, in natural units, the measures shown to the user, for every candidate.
struct Described {
    std::vector<Features> features;
    std::vector<Measures> measures;
};
/// Threads: parallel inside, equal bits for any number. Source: the features follow those that
/// separated real dust from picture detail in our own trials.
[[nodiscard]] Described describe(const Level& level, const Residual& r, const Candidates& all,
                                 Origin origin, Polarity polarity, std::stop_token stop);

}  // namespace gq::find
