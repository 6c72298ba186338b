#pragma once
#include <stop_token>

#include "core/pixels/image.h"

namespace gq::find {

/// Rows of a picture that make one of its sums.
inline constexpr int kRowsPooled = 4;

/// A thin upright ridge added up along windows of 129 px, in noise units clipped at 3 so that no
/// single place decides; the best of nine slopes within 8 degrees through each place.
/// `tone`: 0..1. Result: a row for each `kRowsPooled`. Cost: about 30 passes. Threads: parallel
/// inside; equal bits for any number. Stopped: empty.
[[nodiscard]] ImageF alongWindows(const ImageF& tone, std::stop_token stop);

/// Places where such a sum is high and ordinary beside, in a mask of `rows` rows: grass and slats
/// are high everywhere.
[[nodiscard]] Mask outstanding(const ImageF& sum, int rows);

}  // namespace gq::find
