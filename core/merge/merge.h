#pragma once
#include <stop_token>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::merge {

/// Frames of one scene as one picture.
struct Fused {
    Image pixels;    ///< what all frames show
    int untold = 0;  ///< frames that show too little to tell how they lie; taken as they lie
};

/// Frames in several exposures, each place from where it is well exposed, laid on the frame of
/// middling brightness (registration.h). Shapes: 16 bits, three channels, one size.
/// Source   Mertens, Kautz, Van Reeth, Exposure Fusion, Pacific Graphics 2007, by OpenCV.
/// Errors   BadSetting (fewer than two frames, other sizes, little in common), Cancelled.
[[nodiscard]] Result<Fused> mergedBracket(std::vector<Image> frames, std::stop_token stop = {});

/// Frames focused at several distances, each place from where it is sharpest: the sum-modified
/// Laplacian over 9 px, its weights softened; laid on the one in the middle of the order given.
/// Shapes and errors as above.
/// Source   Nayar, Nakagawa, Shape from Focus, IEEE PAMI 16(8), 1994.
[[nodiscard]] Result<Fused> mergedStack(std::vector<Image> frames, std::stop_token stop = {});

}  // namespace gq::merge
