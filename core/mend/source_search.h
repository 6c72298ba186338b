#pragma once
#include <stop_token>
#include <vector>

#include "core/mend/window.h"

namespace gq::mend {

/// Known pixels around a piece, with weights that fall with distance. Window coordinates.
struct Ring {
    std::vector<Point> places;
    std::vector<float> weights;
    Rect box;  ///< of the piece and its ring
};
[[nodiscard]] Ring ringOf(const Window& w, const std::vector<Point>& piece, int width);

struct Source {
    Point offset;
    float cost =
        0;  ///< weighted mean square difference over the ring, tone and tilt mostly taken out
};

/// Offsets a piece's texture can come from, best first, none within 1 px of another; at most
/// `count`. A coarse grid over +-`reach` px (3 px wide, 6 beyond 48 px), the best refined.
/// Cost of an offset: weighted ring difference with its mean (90 %) and plane (70 %) taken out,
/// times 1 + 0.15 ln(detail ratio)^2.
[[nodiscard]] std::vector<Source> searchSources(const Window& w, const std::vector<Point>& piece,
                                                const Ring& ring, int reach, size_t count,
                                                std::stop_token stop);

}  // namespace gq::mend
