#pragma once
#include <optional>
#include <stop_token>
#include <string>

#include "core/pixels/image.h"

namespace gq::film {

/// What the infrared plane of a scan says about dust.
struct InfraredDust {
    ImageF depth;  ///< share of infrared light held back by dust, 0..1, CV_32F; empty = useless
    ImageF noise;  ///< local scale of `depth` where nothing lies, larger at the picture's edges
    PointF shift;  ///< by how much the plane was moved to meet the picture, px
    std::string useless;  ///< why it cannot be used, in words; empty when it can

    /// Whether dust is darker in the picture than what surrounds it; none where too little lies.
    [[nodiscard]] std::optional<bool> isDarkIn(const Image& pixels) const;
};

/// Dyes let infrared through and dust does not; but the plane also bears a weak, slightly shifted
/// image of the picture, out of focus. The shift is found by phase correlation of the steepness and
/// then by slopes, the focus as the best of four blurs, the picture's share by least squares of log
/// infrared on log red, green, blue and the square of their mean over tiles, fitted without the
/// darkest rest (so without dust). Silver films hold infrared back themselves: when the picture
/// explains too much of the plane, it is called useless.
/// Shapes: pixels CV_16UC1/3; infrared CV_16UC1 of the same size.
/// Source: phase correlation: Kuglin, Hines, Proc. Cybernetics and Society 1975; slopes: Lucas,
/// Kanade, Proc. IJCAI 1981.
/// Threads: re-entrant.
[[nodiscard]] InfraredDust infraredDust(const Image& pixels, const Image& infrared,
                                        std::stop_token stop = {});

}  // namespace gq::film
