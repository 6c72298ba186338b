#pragma once
#include "core/mend/window.h"

namespace gq::mend {

struct HealSettings {
    Point source{0, 0};
    bool fixedSource = false;  ///< use `source` alone
    int candidate = 0;         ///< 0 = mean structure of the best ten; n = the nth alone
    float grain = 0.9f;
    int reach = 48;  ///< px searched around a piece
};

struct HealReport {
    Point source{0, 0};  ///< of the largest piece
    float misfit = 0;    ///< root of the best source's ring difference, 0..1
};

/// Fills the hole of a window. Each piece takes the mean of its best ten sources, each moved to the
/// place's tone by a membrane over the ring, with the fine detail of the best one put back.
/// Errors   Cancelled; BadSetting when a fixed source lies outside the window.
/// Source   membrane weights after Farbman et al., "Coordinates for Instant Image Cloning", ACM
///          TOG 28(3), 2009; averaging and grain from our own trials.
[[nodiscard]] Result<HealReport> heal(Window& window, const std::vector<Point>& hole,
                                      const HealSettings& settings, std::stop_token stop);

}  // namespace gq::mend
