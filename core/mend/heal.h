#pragma once
#include <optional>

#include "core/mend/window.h"

namespace gq::mend {

struct HealSettings {
    bool alongLine = false;  ///< short pieces and a narrow ring: for hairs, scratches, cracks
    int candidate = 0;       ///< 0 = the best thirty sources together; n = the nth other place
    float grain = 0.9f;
    int reach = 48;  ///< px searched around a piece
};

struct HealReport {
    Point source{0, 0};  ///< of the largest piece
    float misfit = 0;    ///< root of the best source's ring difference, 0..1
};

/// Fills the hole of a window, piece by piece: 16 px across, 12 along a line, all at once in calm
/// surroundings. A piece takes its best thirty sources together, moved to the place's tone by a
/// membrane, with the fine detail of the best one put back.
/// Errors   Cancelled.
[[nodiscard]] Result<HealReport> heal(Window& window, const std::vector<Point>& hole,
                                      const HealSettings& settings, std::stop_token stop);

/// The best source for a hole taken as one piece; none where there is none.
[[nodiscard]] std::optional<Point> sourceFor(const Window& window, const std::vector<Point>& hole,
                                             int reach, std::stop_token stop);

/// The nth other source for a hole taken as one piece: out of sight (farther than `sight` px), so
/// that the same is not seen twice; where there is none, nearer.
[[nodiscard]] std::optional<Point> anotherSourceFor(const Window& window,
                                                    const std::vector<Point>& hole, int sight,
                                                    int candidate, std::stop_token stop);

}  // namespace gq::mend
