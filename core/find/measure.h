#pragma once
#include "core/find/candidates.h"

namespace gq::find {

/// Sums over windows of a level, for all its candidates.
struct Surroundings {
    ImageF wide;                 ///< mean |residual| over 61 px
    std::vector<PointF> places;  ///< centre of each candidate
    std::vector<float> peaks;    ///< highest residual of each
};
[[nodiscard]] Surroundings surroundingsOf(const Residual& r, const Candidates& all,
                                          Polarity polarity);

/// What candidate `index` looks like, in full-size pixels.
[[nodiscard]] Measures measure(const Residual& r, const Candidates& all, const Surroundings& around,
                               size_t index, Polarity polarity);

}  // namespace gq::find
