#pragma once
#include <vector>

#include "core/find/broad_marks.h"

namespace gq::find {

// What pieces missing at a print's edge and inside it, and flakes, have in common; small pictures,
// tones 0..1.

constexpr float kSameTone = 0.015f;    ///< either way
constexpr float kTorn = 0.85f;         ///< of the outline that has a step of tone
constexpr double kSliver = 0.28;       ///< thinner for its length is the edge of a ragged print
constexpr double kLeastLoss = 0.0006;  ///< of the picture's area

/// True of a piece at either end of the scale if as much as a part of its area has that tone
/// elsewhere in the print: blown highlights and blocked shadows are as flat as what is no picture.
[[nodiscard]] bool isClipped(float tone, int area, int elsewhere);

/// Mean and deviation of the tone in a square about each place of a picture.
struct Calm {
    explicit Calm(const ImageF& plane, int side = 5);
    ImageF mean, deviation;
};

/// Deviations where there is no picture, it may be, and in the print around.
struct Deviations {
    std::vector<float> inside, outside;
    Deviations(const ImageF& deviation, const Mask& open, const Mask& near);
};

/// A mask and the places about it whose deviation it may have a part in.
[[nodiscard]] Mask near(const Mask& mask);

/// What lies just beyond a piece's outline, where that is not open too.
[[nodiscard]] Region beyond(const Region& piece, const Mask& open);

/// Share of a piece's outline that runs along its box: over `kCut` it was cut straight, a window or
/// a margin. Of pieces under 50 px across it tells nothing.
[[nodiscard]] double straightCut(const Region& piece);
constexpr double kCut = 0.45;

/// A missing piece as a finding of the whole picture; `step` of its tone to what is around, which
/// varies by `spread`.
[[nodiscard]] Finding lossOf(const Region& piece, const Calm& calm, float step, float spread,
                             const Coarse& at, const Size& picture);

}  // namespace gq::find
