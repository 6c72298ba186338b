#pragma once
#include <filesystem>

#include "core/files/frame_info.h"

namespace gq::files {

/// Fills camera, time, aperture, exposure, orientation (and resolution if missing) from EXIF.
/// A file without metadata leaves them as they are.
void addMetadata(const std::filesystem::path& file, FrameInfo& info);

/// Copies EXIF, XMP and IPTC from `from` to `to`, which must be a JPEG, PNG or TIFF. Tags that
/// describe how the pixels are stored are left as `to` has them; the orientation is kept.
/// Errors: Unreadable when the metadata cannot be written.
[[nodiscard]] Status copyMetadata(const std::filesystem::path& from,
                                  const std::filesystem::path& to);

/// EXIF values that a made-up camera writes.
struct CameraTags {
    std::string make, model, taken;
    double aperture = 8, exposureTime = 0.004, focalLength = 35;
    int iso = 100;
    Orientation orientation = Orientation::Upright;
};
/// Writes them into a JPEG, TIFF or DNG file.
[[nodiscard]] Status writeCameraTags(const std::filesystem::path& file, const CameraTags& tags);

}  // namespace gq::files
