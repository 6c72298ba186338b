#pragma once
#include <stop_token>

#include "core/pixels/image.h"

namespace gq {

/// Median over `side` x `side` px, odd, of each channel; the picture's edge is continued. Threads:
/// parallel inside; equal bits for any number. Stopped: unfinished.
/// Source: 7 px by a network of comparisons; forgetful selection: Paeth, Graphics Gems, 1990.
/// Others by OpenCV.
[[nodiscard]] Image8 median(const Image8& plane, int side, std::stop_token stop = {});

}  // namespace gq
