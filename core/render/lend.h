#pragma once
#include "core/series/series.h"

namespace gq::render {

/// The mend as it is made of what `other` shows at its place, for frames of the same scene.
/// `pixels` and `otherPixels` are the frames' originals.
/// Errors: BadSetting when they do not show the same, or the place is dirty there too.
[[nodiscard]] Result<mend::Mend> lentFrom(const mend::Mend& mend, const Image& pixels,
                                          const series::Frame& other, const Image& otherPixels,
                                          float line);

}  // namespace gq::render
