#pragma once
#include "core/files/picture_reader.h"

namespace gq::files {

/// `readInfo` for raw files, by LibRaw.
[[nodiscard]] Result<FrameInfo> readRawInfo(const std::filesystem::path& file, double pixelLimit);
/// `readPicture` for raw files; at half the size a pixel comes from each cell of the mosaic.
[[nodiscard]] Result<LoadedPicture> readRaw(const std::filesystem::path& file, std::stop_token stop,
                                            double pixelLimit, bool half = false);

/// The picture that a camera put into a raw file to show it quickly.
struct RawPreview {
    std::string jpeg;  ///< a JPEG file,
    Image8 bitmap;     ///< or the picture itself; neither = there is none
    Size picture;      ///< of the raw file's picture, stored as the preview is
};
/// Errors: as `readRawInfo`; a preview that cannot be read is none.
[[nodiscard]] Result<RawPreview> readPreview(const std::filesystem::path& file);

}  // namespace gq::files
