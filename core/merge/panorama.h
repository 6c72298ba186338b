#pragma once
#include <stop_token>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/parallel.h"
#include "core/pixels/region.h"
#include "core/pixels/result.h"

namespace gq::merge {

/// A frame of a panorama and where it is dirty.
struct Part {
    Image pixels;                   ///< upright, 16 bits, three channels
    std::vector<Region> blemishes;  ///< in its coordinates
};

struct Joined {
    Image pixels;     ///< 16 bits, three channels
    Mask covered;     ///< where the panorama has a picture
    int avoided = 0;  ///< blemishes that another frame covers, whose clean picture was taken
    int left = 0;     ///< those that no other frame covers
};

/// Joins frames that overlap. Each seam is led around blemishes: where a frame is dirty and another
/// one shows the place clean, the other one is taken.
/// Threads  parallel inside. Cost: about 3 s a 12 megapixel frame.
/// Errors   BadSetting (fewer than two frames; frames that do not overlap), Cancelled.
/// Source   Brown, Lowe, Automatic Panoramic Image Stitching using Invariant Features, IJCV 74(1),
///          2007, by OpenCV; blemishes are given to the other frame after the seams are found.
[[nodiscard]] Result<Joined> joinPanorama(const std::vector<Part>& parts,
                                          const Progress& progress = {}, std::stop_token stop = {});

}  // namespace gq::merge
