#pragma once
#include <array>

#include "core/pixels/image.h"

namespace gq::film {

/// How a scanned negative is turned into a positive. Channels red, green, blue; a monochrome film
/// uses the same numbers in all.
struct Inversion {
    std::array<float, 3> base{1, 1, 1};      ///< linear light through bare film, 0..1
    std::array<float, 3> white{1, 1, 1};     ///< density above the base that is shown nearly white
    std::array<float, 3> exposure{0, 0, 0};  ///< stops brighter than that
    std::array<float, 3> contrast{1, 1, 1};  ///< 0.25..4: steepness in density, 1 = as exposed
    bool monochrome = false;                 ///< the result is grey

    bool operator==(const Inversion&) const = default;
};

/// Inversion for a scan with the given base: black lies between bare film and the thinnest places
/// of the picture, white at its densest. Each channel goes half the way from what all of them have
/// in common to its own densest places, so that a picture of one colour keeps it and a cast of the
/// light is weakened; monochrome when the densities have no colour. Shapes: 1 or 3 channels of 16
/// bits.
[[nodiscard]] Inversion fitted(const Image& pixels, const std::array<float, 3>& base);

/// The positive, sRGB encoded. Shapes: 1 or 3 channels of 16 or 8 bits -> the same.
/// Units: density D = -log10(light / base); light shown = 0.92 x 10^(contrast (D - white) / 0.6) x
/// 2^exposure, 0.6 being the usual gamma of negative film (ISO 6 leads to 0.62).
/// Threads: parallel inside.
[[nodiscard]] Image inverted(const Image& pixels, const Inversion& inversion);

}  // namespace gq::film
