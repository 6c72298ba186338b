#pragma once
#include <opencv2/core.hpp>
#include <string>

#include "core/pixels/result.h"

namespace gq {

using Image = cv::Mat;   ///< 16-bit or float, 1 or 3 channels (red, green, blue)
using ImageF = cv::Mat;  ///< 32-bit float
using Image8 = cv::Mat;  ///< 8-bit, for the screen
using Mask = cv::Mat;    ///< one byte a pixel, 0 = not in it
using Rect = cv::Rect;
using Point = cv::Point;
using PointF = cv::Point2f;
using Size = cv::Size;

/// One frame's pixels in the file's own encoding, as stored (unrotated).
///
/// 8-bit sources are widened to 16 (x257) for work and narrow back exactly. The pixel buffer is
/// shared between copies; whoever writes clones it first.
struct Picture {
    Image pixels;  ///< CV_16UC1 (grey) or CV_16UC3 (red, green, blue)
    int bits = 8;  ///< bits a channel in the file: 8 or 16

    [[nodiscard]] Size size() const { return pixels.size(); }
    [[nodiscard]] bool empty() const { return pixels.empty(); }
    [[nodiscard]] double megapixels() const { return double(pixels.total()) * 1e-6; }
};

/// 8-bit values widened to 16 (x257). Shapes: any.
[[nodiscard]] Image widen(const Image8& image);
/// 16-bit values narrowed to 8, rounded; exact inverse of `widen`.
[[nodiscard]] Image8 narrow(const Image& image);
/// Grey becomes three equal channels; three stay (shared).
[[nodiscard]] Image asColour(const Image& image);
/// The box `b` grown by `by` pixels and cut to a picture of `size`.
[[nodiscard]] Rect grown(const Rect& b, int by, const Size& size);

}  // namespace gq
