#pragma once
#include <filesystem>
#include <string>

#include "core/pixels/frame_geometry.h"

namespace gq::sim {

/// Writes a mosaic of `mosaic()` as an uncompressed DNG 1.4 file that raw readers open.
/// Source: Adobe, "Digital Negative Specification" 1.4, 2012.
[[nodiscard]] Status writeDng(const std::filesystem::path& file, const Image& mosaic,
                              const std::string& make, const std::string& model,
                              Orientation orientation);

}  // namespace gq::sim
