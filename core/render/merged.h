#pragma once
#include <stop_token>

#include "core/files/picture_reader.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::render {

/// What a set of frames makes together.
struct Merged {
    files::LoadedPicture picture;  ///< upright, 16 bits, three channels; the frames' profile
    int avoided = 0;               ///< panorama: blemishes whose place another frame shows clean
    int left = 0;    ///< panorama: blemishes that only one frame covers; their mends are in it
    int untold = 0;  ///< bracket, stack: frames that show too little to tell how they lie
};

/// Merges the frames of a bracket, a focus stack or a panorama, each with its mends. `megapixels`
/// bounds the size of the frames that go in, for a preview; 0 = full size. Without `mends` the
/// frames go in as they came, to compare with.
/// Threads: parallel inside. Errors: those of reading, merging and joining; BadSetting when the
/// frames have different colour profiles; Cancelled.
[[nodiscard]] Result<Merged> merged(const std::vector<series::FramePtr>& frames,
                                    series::Purpose purpose, float line, double megapixels,
                                    bool mends = true, const Progress& progress = {},
                                    std::stop_token stop = {});

}  // namespace gq::render
