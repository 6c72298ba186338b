#pragma once
#include <stop_token>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::merge {

/// Frames of one scene in several exposures as one picture, each place from where it is well
/// exposed. Frames must lie on each other and have one size (16 bits, three channels).
/// Source   Mertens, Kautz, Van Reeth, Exposure Fusion, Pacific Graphics 2007, by OpenCV.
/// Errors   BadSetting (fewer than two frames, other sizes), Cancelled.
[[nodiscard]] Result<Image> mergedBracket(const std::vector<Image>& frames,
                                          std::stop_token stop = {});

/// Frames focused at several distances as one picture, each place from where it is sharpest: the
/// sum-modified Laplacian over 9 px, its weights softened. Shapes and errors as above.
/// Source   Nayar, Nakagawa, Shape from Focus, IEEE PAMI 16(8), 1994.
[[nodiscard]] Result<Image> mergedStack(const std::vector<Image>& frames,
                                        std::stop_token stop = {});

}  // namespace gq::merge
