#pragma once
#include <array>
#include <optional>

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

/// Linear light of the film's unexposed rim, when the picture has one: all four edges brighter than
/// nearly everything inside. Nothing otherwise, so this also tells scanned negatives from pictures
/// that are positive already.
[[nodiscard]] std::optional<std::array<float, 3>> findBase(const Image& pixels);

/// Inversion for a picture with the given base: black and white points of each channel from the
/// 0.5th and 99.5th part of its densities; monochrome when the densities have no colour.
[[nodiscard]] Inversion fitted(const Image& pixels, const std::array<float, 3>& base);

/// The positive, sRGB encoded. Shapes: 1 or 3 channels of 16 or 8 bits -> the same.
/// Units: density D = -log10(light / base); light shown = 0.92 x 10^(contrast (D - white) / 0.6) x
/// 2^exposure, 0.6 being the usual gamma of negative film (ISO 6 leads to 0.62).
/// Threads: parallel inside.
[[nodiscard]] Image inverted(const Image& pixels, const Inversion& inversion);

}  // namespace gq::film
