#pragma once
#include <filesystem>
#include <optional>
#include <string>

#include "core/pixels/frame_geometry.h"
#include "core/pixels/result.h"

namespace gq::files {

/// What a picture file says of itself, without its pixels.
struct FrameInfo {
    std::string file;
    std::string format;  ///< "JPEG", "PNG", "TIFF" or "raw"
    Size size;           ///< stored, px
    int bits = 8;        ///< bits a channel
    int channels = 3;
    Orientation orientation = Orientation::Upright;
    std::string camera;        ///< maker and model; empty if not told
    std::string taken;         ///< "2026:05:14 10:22:31", as EXIF has it
    double aperture = 0;       ///< f-number, 0 = not told
    double exposureTime = 0;   ///< seconds, 0 = not told
    double pixelsPerInch = 0;  ///< 0 = not told
    int pages = 1;             ///< pictures in the file; the first alone is read
};

/// Pixels a file may have before it is refused.
inline constexpr double kPixelLimit = 1e9;

/// Reads the header. Errors: NotFound, Unreadable, Unsupported, TooLarge.
[[nodiscard]] Result<FrameInfo> readInfo(const std::filesystem::path& file,
                                         double pixelLimit = kPixelLimit);

/// What is to be said of a file with more pages than the one that is read (Partial).
[[nodiscard]] std::optional<Error> pagesLeft(const FrameInfo& info);

}  // namespace gq::files
