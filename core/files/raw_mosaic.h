#pragma once
#include <filesystem>
#include <vector>

#include "core/pixels/image.h"

namespace gq::files {

/// Light that is held back over a box of a raw picture, as readPicture gives it.
struct MosaicShade {
    Rect box;
    ImageF logShare;  ///< natural logarithm of the share let through, <= 0
};

/// Writes a copy of a DNG in which the raw samples under `shades` are divided by the share of light
/// let through there, above the black level and up to the white one. All else, tags included, stays
/// as it is to the byte, but for digests of the samples, which are cleared: no demosaicing, no
/// development. Errors: Unsupported (not a DNG, or its mosaic is compressed or coded by a curve), Refused (the target exists and is
/// not to be replaced), those of reading and writing.
[[nodiscard]] Status writeUnshadedDng(const std::filesystem::path& source,
                                      const std::filesystem::path& target,
                                      const std::vector<MosaicShade>& shades, bool replace);

}  // namespace gq::files
