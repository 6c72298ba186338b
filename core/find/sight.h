#pragma once
#include "core/find/finding.h"
#include "core/pixels/image.h"

namespace gq::find {

/// What the finished picture is for; decides which blemishes anybody will see.
struct Sight {
    enum class Use { Off, Screen, Print };
    Use use = Use::Off;
    int screenWidth = 1920;       ///< px the picture is shown at
    float printWidth = 400;       ///< mm
    float viewingDistance = 500;  ///< mm, of a print

    bool operator==(const Sight&) const = default;
};

/// How many times over the threshold of seeing a finding is at that output; below 1 it is not seen.
/// A disc of the finding's size is taken as half a cycle of its spatial frequency; its contrast is
/// thinned by the area it loses when it gets smaller than an output pixel (screens: 60 pixels a
/// degree; prints: 60 dots a degree is the eye's own limit) and set against the contrast
/// sensitivity A(f) = 2.6 (0.0192 + 0.114 f) exp(-(0.114 f)^1.1), peak 200, raised by the spread of
/// the surroundings, which masks it.
/// Source: Mannos, Sakrison, IEEE Trans. Information Theory 20(4), 1974; peak sensitivity after
/// Barten, SPIE 5294, 2003.
[[nodiscard]] float seen(const Measures& m, bool logContrast, const Size& frame,
                         const Sight& sight);

}  // namespace gq::find
