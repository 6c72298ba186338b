#pragma once
#include <string>

#include "core/pixels/image.h"

namespace gq::sim {

/// Codes 16-bit samples of one channel and an even number of columns as a lossless JPEG, the way
/// cameras code a mosaic: two components side by side, predicted from the left.
/// Source: ITU-T T.81, process 14, 1992.
[[nodiscard]] std::string losslessJpeg(const Image& samples);

}  // namespace gq::sim
