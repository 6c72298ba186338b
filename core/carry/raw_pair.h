#pragma once
#include "core/carry/carry.h"

namespace gq::carry {

/// The raw file of a frame's pair as a frame of its own, with the pair's mends and guides where
/// they fall on it.
struct RawPair {
    series::Frame frame;
    Shadows shadows;  ///< what the picture's mends divide out, to be fitted to the raw file's own
                      ///< tones (`unshaded`): a camera's picture has a tone curve
};

/// The frame's mends and guides as they fall on `other`, another picture of the same exposure: its
/// raw file, or the developed picture inside that. Errors: Refused (another shape).
[[nodiscard]] Result<RawPair> laidOnOther(const series::Frame& frame, series::Frame other);

/// Errors: NotFound when the frame has no pair, Refused (another shape), those of `makeFrame`.
[[nodiscard]] Result<RawPair> rawPairOf(const series::Frame& frame);

/// The shadows behind a frame's mends, by what other frames of the series divide out where those
/// were carried to: a reference is healed itself, and its raw file need not be. Of several, the
/// frame of the smallest opening tells.
[[nodiscard]] Shadows shadowsElsewhere(const series::Series& series, const series::Frame& frame);

}  // namespace gq::carry
