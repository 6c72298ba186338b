#pragma once
#include <vector>

#include "core/pixels/region.h"

namespace gq::find {

/// What the infrared plane of a scan tells of dust: planes of the picture's size, CV_32F.
struct Infrared {
    ImageF depth;  ///< share of infrared held back, 0..1; empty = none
    ImageF noise;  ///< its local scale
};

/// Where the person at the bench wants Find to look, and how hard. Masks in stored coordinates,
/// CV_8U, of any size (laid over the whole picture); empty = not used.
struct Guides {
    Mask heed;    ///< 0..255: how much more readily to find here
    Mask hush;    ///< 0..255: how much less
    Mask shield;  ///< over half = found nothing here
    Mask bounds;  ///< below half = found nothing here; empty = everywhere

    Infrared infrared;
    /// How far signals count at each pixel of a level of `level` pixels: 1 = as they are, 2 at full
    /// heed, 0.5 at full hush, 0 where nothing is to be found. Empty when no mask is used. What is
    /// found gains or loses confidence by it too.
    [[nodiscard]] ImageF easing(const Size& level) const;
    /// The shielded pixels of a box of a picture of size `frame`.
    [[nodiscard]] Region shieldedIn(const Rect& box, const Size& frame) const;
    /// The pixels of a box within the bounds; empty where none are painted.
    [[nodiscard]] Region boundedIn(const Rect& box, const Size& frame) const;
};

/// What of a region is open to finding by the whole picture's `easing`; all of it where that is
/// empty.
[[nodiscard]] Region openPart(const Region& region, const ImageF& easing);

/// A round-ended stroke laid on a mask of one pixel per `scale` picture pixels, as a new mask.
/// `frame` is the picture's size; `path` and `width` are in its pixels; `amount` -255..255 is added
/// where the stroke lies, so that strokes add up. An empty mask starts at 0 everywhere.
[[nodiscard]] Mask painted(const Mask& mask, const Size& frame, int scale,
                           const std::vector<PointF>& path, float width, int amount);
/// The same over the inside of a closed outline.
[[nodiscard]] Mask filled(const Mask& mask, const Size& frame, int scale,
                          const std::vector<PointF>& outline, int amount);
[[nodiscard]] Mask invertedMask(const Mask& mask, const Size& frame, int scale);
/// Edges blurred over `width` picture pixels.
[[nodiscard]] Mask softened(const Mask& mask, int scale, float width);

}  // namespace gq::find
