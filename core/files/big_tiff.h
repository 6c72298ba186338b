#pragma once
#include <exiv2/exiv2.hpp>
#include <filesystem>

namespace gq::files {

/// What a picture's file tells beside its pixels.
struct Tags {
    Exiv2::ExifData exif;
    Exiv2::IptcData iptc;
    Exiv2::XmpData xmp;
};

/// True for a TIFF with places of 64 bits, which Exiv2 does not read.
[[nodiscard]] bool isBigTiff(const std::filesystem::path& file);

/// Its tags, as far as libtiff reads them rightly: camera, time, author, orientation, resolution,
/// exposure and XMP; not IPTC, whose words it takes for numbers. Empty for a damaged file.
[[nodiscard]] Tags bigTiffTags(const std::filesystem::path& file);

}  // namespace gq::files
