#pragma once
#include <filesystem>

#include "core/pixels/result.h"

namespace gq::files {

/// Clears the digests that a DNG holds of its raw samples (RawImageDigest, NewRawImageDigest; DNG
/// 1.4), in place: once samples change, programs that check would call the file damaged; digests
/// of zeros are not checked. A file without them stays as it is.
/// Errors: Unreadable, NoPermission.
[[nodiscard]] Status clearRawDigests(const std::filesystem::path& file);

}  // namespace gq::files
