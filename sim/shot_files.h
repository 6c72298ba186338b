#pragma once
#include <filesystem>

#include "core/files/metadata.h"
#include "core/pixels/image.h"

namespace gq::sim {

/// Writes an 8-bit picture, widened to 16, as a camera's JPEG. Errors: of writing.
[[nodiscard]] Status writeJpeg(const std::filesystem::path& file, const Image& pixels,
                               const files::CameraTags& tags, int quality);
/// Writes the share of light let through as a 16-bit PNG, 65535 = all. Errors: of writing.
[[nodiscard]] Status writeGain(const std::filesystem::path& file, const ImageF& gain);

}  // namespace gq::sim
