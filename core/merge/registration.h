#pragma once
#include <stop_token>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::merge {

/// Frames laid on each other.
struct Registered {
    std::vector<Image> frames;  ///< all of one size: what every one of them shows
    int moved = 0;              ///< frames that were moved, turned or scaled
    int untold = 0;             ///< frames that show too little to tell; they stay as they lie
};

/// Lays the frames of a bracket or a focus stack on one of them, `onto`: held by hand they are a
/// little apart, and refocusing changes their scale. Frames that lie within a pixel stay as they
/// are, to the bit. Their exposures may differ.
/// Shapes   at least two frames, 16 bits, three channels, one size.
/// Threads  parallel inside. Errors: BadSetting (too little of the picture in common), Cancelled.
/// Source   features: Lowe, IJCV 60(2), 2004; similarity by RANSAC: Fischler, Bolles, 1981;
///          settled: Evangelidis, Psarakis, IEEE PAMI 30(10), 2008; OpenCV.
[[nodiscard]] Result<Registered> registered(std::vector<Image> frames, size_t onto,
                                            std::stop_token stop = {});

}  // namespace gq::merge
