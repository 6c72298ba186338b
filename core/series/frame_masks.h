#pragma once
#include <filesystem>

#include "core/series/series.h"

namespace gq::series {

/// Painted masks of a frame as grey PNG files FRAME.heed.png, .hush, .shield, .bounds, .seen in
/// `folder`; files of masks that are gone are removed. What `before` shares is not written again.
/// Errors: NoPermission, DiskFull.
[[nodiscard]] Status saveMasks(const Frame& frame, const Frame* before,
                               const std::filesystem::path& folder);
/// Errors: Unreadable (a damaged mask).
[[nodiscard]] Status loadMasks(Frame& frame, const std::filesystem::path& folder);

}  // namespace gq::series
