#pragma once
#include <vector>

#include "core/mend/window.h"

namespace gq::mend {

/// A sheet through known differences on the rim of a piece; its weights are worked out once for all
/// that is spread over that piece.
/// Threads: a large piece is worked out on all of them; equal bits for any number.
/// Weights 1 / (r^2 + 1/2)^1.5, a stand-in for mean-value coordinates.
/// Source: Farbman et al., "Coordinates for Instant Image Cloning", ACM TOG 28(3), 2009.
class Membrane {
  public:
    /// At most 72 of the rim's points are used, evenly picked. `rim` must not be empty.
    Membrane(const std::vector<Point>& rim, const std::vector<Point>& piece);

    [[nodiscard]] const std::vector<Point>& rim() const { return m_rim; }
    /// The sheet through `onRim` (one value a point of `rim()`), at every pixel of the piece.
    [[nodiscard]] std::vector<Vec4> spread(const std::vector<Vec4>& onRim) const;

  private:
    std::vector<Point> m_rim;
    std::vector<float> m_weights;  ///< rim().size() a pixel of the piece, of sum 1
};

/// Draws values further than 2.5 deviations from the median in to there, channel by channel: an
/// edge that meets the rim on one side only must not tint the whole piece.
void winsorise(std::vector<Vec4>& values);

}  // namespace gq::mend
