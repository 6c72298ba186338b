#pragma once
#include "core/files/picture_reader.h"

namespace gq::files {

/// `readInfo` for raw files, by LibRaw.
[[nodiscard]] Result<FrameInfo> readRawInfo(const std::filesystem::path& file, double pixelLimit);
/// `readPicture` for raw files; at half the size a pixel comes from each cell of the mosaic.
[[nodiscard]] Result<LoadedPicture> readRaw(const std::filesystem::path& file, std::stop_token stop,
                                            double pixelLimit, bool half = false);

}  // namespace gq::files
