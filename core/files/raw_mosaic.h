#pragma once
#include <filesystem>
#include <vector>

#include "core/files/dng_previews.h"

namespace gq::files {

/// Light that is held back over a box of a raw picture, as readPicture gives it.
struct MosaicShade {
    Rect box;
    ImageF logShare;  ///< natural logarithm of the share let through, <= 0
};

/// Writes a copy of a DNG in which the raw samples under `shades` are divided by the share of light
/// let through there, above the black level and up to the white one: no demosaicing, no
/// development. Samples of 16 bits keep their places in the file, and all else stays as it is to
/// the byte; compressed, packed and curve-coded ones become plain ones of 16 bits, with every other
/// tag as it was. Digests of the samples are cleared. `onPreview` does the same for the developed
/// pictures in the file (`changePreviews`).
/// Errors: Unsupported (not a DNG, or without a mosaic), Refused (the target exists and is not to
/// be replaced, or is the source), those of reading and writing.
[[nodiscard]] Status writeUnshadedDng(const std::filesystem::path& source,
                                      const std::filesystem::path& target,
                                      const std::vector<MosaicShade>& shades, bool replace,
                                      const PreviewChange& onPreview = {});

}  // namespace gq::files
