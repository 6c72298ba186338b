#pragma once
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/files/picture_reader.h"

namespace gq::files {

enum class Format { Tiff8, Tiff16, Png8, Png16, Jpeg };

/// Names for command line, forms and files: "tiff8", "tiff16", "png8", "png16", "jpeg".
[[nodiscard]] std::string formatWord(Format format);
[[nodiscard]] std::optional<Format> formatFromWord(const std::string& word);
/// ".tif", ".png" or ".jpg".
[[nodiscard]] std::string suffix(Format format);
/// The format a file name asks for; the depth is that of the picture.
[[nodiscard]] std::optional<Format> formatForName(const std::filesystem::path& file, int bits);
/// All formats in the order of a menu.
[[nodiscard]] const std::vector<Format>& allFormats();

struct WriteOptions {
    Format format = Format::Tiff16;
    int jpegQuality = 95;  ///< 1..100; colour is never subsampled
    bool replace = false;  ///< allow an existing file to be replaced
};

/// Writes a picture with its extra planes (not in JPEG), profile and resolution, and with the
/// EXIF, XMP and IPTC of `original` (nothing if empty).
/// Errors: Refused (exists, or `target` is `original`), NoPermission, DiskFull, Unreadable.
[[nodiscard]] Status writePicture(const std::filesystem::path& target, const LoadedPicture& loaded,
                                  const WriteOptions& options,
                                  const std::filesystem::path& original = {});

/// Writes a plain 8-bit grey or colour PNG (masks, crops).
[[nodiscard]] Status writeImage8(const std::filesystem::path& target, const Image8& image);

}  // namespace gq::files
