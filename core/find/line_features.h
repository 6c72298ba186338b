#pragma once
#include <array>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/region.h"

namespace gq::find {

/// What tells a scratch, a fold or a straight crack from a straight line of the picture. Tones
/// 0..1, as if the line were light; lengths in px of the level. "Sides" are strips of 4 to 8 px on
/// either side, "far" ones of 12 to 16 px; ratios are by the contrast, the line's tone over that of
/// its sides. The line is looked at in parts of 16 px.
enum LineFeature : int {
    LineStrength,    ///< of the ridge along it, noise units clipped at 3
    LineWeakest,     ///< a tenth of its parts are weaker
    LineBeside,      ///< deviation of the ridges beside, 10 to 40 px off
    LineStands,      ///< strength over theirs, in their deviations
    LineLength,      ///< log
    LineOfPicture,   ///< share of the picture's height
    LineEndsAtEdge,  ///< 0, 1 or 2
    LineWanders,     ///< deviation from straight
    LineSlope,
    LineContrast,
    LineUneven,       ///< deviation of the parts' contrast, ratio
    LineKept,         ///< share of the parts with over half of the contrast
    LineAboveBoth,    ///< share of the parts lighter than either side
    LineRegressed,    ///< by how much the line's tone follows the sides': 1 = wholly, 0 = opaque
    LineUnexplained,  ///< what of the line's tone that leaves, ratio
    SidesDiffer,      ///< ratio
    SidesDifferPart,  ///< the same part by part
    FarDiffer,        ///< ratio
    SidesOverFar,     ///< by how much more near than far, ratio
    FoldAgrees,       ///< how alike the parts are in that: mean over its deviation
    SidesRough,       ///< deviation along the sides, ratio
    LineBreadth,      ///< tone 2 px off the middle, ratio
    LineFoot,         ///< tone 3 px off, ratio
    LineLopsided,     ///< by how much both sides of its own differ at 2 px, ratio
    LineHollow,       ///< how far the lowest tone within 3 to 7 px is below the sides, ratio
    LineTone,
    SidesTone,
    LineColour,    ///< by how much its channels' contrasts differ, ratio
    LineHue,       ///< by how much its channels differ
    LineGoesOn,    ///< contrast up to 80 px beyond its ends, ratio
    EdgeGoesOn,    ///< difference of the sides there, ratio
    LineRivals,    ///< other such lines near it; set by who knows them
    LinesOverall,  ///< log, the same
    LineDark,      ///< 1 = darker than its sides
    kLineFeatureCount
};
using LineFeatures = std::array<float, kLineFeatureCount>;

/// A picture as upright lines are sought in it: as if they were light.
struct LineField {
    const Image& pixels;
    const ImageF& tone;    ///< 0..1
    const ImageF& ridges;  ///< means along long windows; a row for each `pool` of the picture's
    int pool = 1;
    bool dark = false;
};

/// Of an upright line of at least 64 px. Cost: O(length). Threads: re-entrant.
[[nodiscard]] LineFeatures featuresOf(const LineField& field, const Region& line);

}  // namespace gq::find
