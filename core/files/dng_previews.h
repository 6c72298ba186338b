#pragma once
#include <filesystem>
#include <functional>

#include "core/pixels/image.h"

namespace gq::files {

/// Changes a picture (16 bits, three channels) in place; false if it is to stay as it is.
using PreviewChange = std::function<bool(Image& preview)>;

/// Changes the developed pictures that a DNG holds beside its samples: those of 8 bits and three
/// channels in one piece, plain or JPEG. Plain ones keep their places; a JPEG is coded anew at the
/// end of the file. All tags but its place stay. Other pictures, and damaged ones, are left alone.
/// Errors: NoPermission, DiskFull, TooLarge (over 4 GB).
[[nodiscard]] Status changePreviews(const std::filesystem::path& dng, const PreviewChange& change);

}  // namespace gq::files
