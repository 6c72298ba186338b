#pragma once
#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

#include "core/pixels/frame_geometry.h"

namespace gq::sim {

struct DngCoding {
    bool bigEndian = false;
    bool lossless = false;             ///< tiles of lossless JPEG; else plain samples in strips
    std::vector<std::uint16_t> curve;  ///< what the samples stand for; empty = themselves
};

/// Writes a mosaic of `mosaic()` as a DNG 1.4 file that raw readers open, with a small
/// picture in its first directory and the samples below it, as cameras write.
/// Source: Adobe, "Digital Negative Specification" 1.4, 2012.
[[nodiscard]] Status writeDng(const std::filesystem::path& file, const Image& mosaic,
                              const std::string& make, const std::string& model,
                              Orientation orientation, const DngCoding& coding = {});

}  // namespace gq::sim
