#pragma once
#include <filesystem>
#include <stop_token>
#include <string>

#include "core/files/frame_info.h"
#include "core/pixels/image.h"

namespace gq::files {

/// A picture with what must go back into the file it is exported to.
struct LoadedPicture {
    Picture picture;
    Image extra;             ///< further planes (alpha, infrared), 16 bits; empty if none
    std::string profile;     ///< ICC profile bytes; empty if the file has none
    double pixelsPerMm = 0;  ///< 0 = not told
};

/// Decodes a JPEG, PNG, TIFF (8 or 16 bits, grey or RGB) or raw file, as stored (unrotated).
/// Raw files are developed to 16-bit sRGB with the camera's white balance and a fixed exposure.
/// Errors: NotFound, Unreadable (truncated, corrupt), Unsupported, TooLarge, Cancelled.
[[nodiscard]] Result<LoadedPicture> readPicture(const std::filesystem::path& file,
                                                std::stop_token stop = {},
                                                double pixelLimit = kPixelLimit);

/// The pixels at half the size, by 2 x 2 means; JPEGs are decoded so, and raw files made of whole
/// cells of their mosaic, which takes half the time.
/// An odd last column and row may be left out or kept. Errors: as `readPicture`.
[[nodiscard]] Result<Image> readHalf(const std::filesystem::path& file, std::stop_token stop = {});

/// A small 8-bit colour picture of a file, as stored (unrotated), at most `side` px wide and high.
/// JPEGs are decoded at reduced size. Errors: as `readPicture`.
[[nodiscard]] Result<Image8> readThumbnail(const std::filesystem::path& file, int side);

}  // namespace gq::files
