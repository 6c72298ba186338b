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

/// Where sources are looked for.
struct Reach {
    int farthest = 48;  ///< px, along x and y
    int nearest = 0;    ///< px, along the longer of both
    int apart = 1;      ///< px along x or y that sources differ by more than
    size_t count = 1;   ///< at most
};

/// Offsets a piece's texture can come from, best first. A coarse grid over +-`farthest` px (3 px
/// wide, 6 beyond 48 px), the best refined. Cost of an offset: weighted ring difference with its
/// mean (90 %) and plane (70 %) taken out, times 1 + 0.15 ln(detail ratio)^2.
[[nodiscard]] std::vector<Source> searchSources(const Window& w, const std::vector<Point>& piece,
                                                const Ring& ring, const Reach& reach,
                                                std::stop_token stop);

}  // namespace gq::mend
