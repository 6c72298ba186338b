#pragma once
#include "core/files/picture_reader.h"

namespace gq::files {

/// `readInfo` and `readPicture` for raw files, by LibRaw.
[[nodiscard]] Result<FrameInfo> readRawInfo(const std::filesystem::path& file, double pixelLimit);
[[nodiscard]] Result<LoadedPicture> readRaw(const std::filesystem::path& file, std::stop_token stop,
                                            double pixelLimit);

}  // namespace gq::files
