#pragma once
#include <filesystem>
#include <vips/vips8>

#include "core/pixels/result.h"

namespace gq::files {

/// Starts libvips once for the process.
void startVips();
/// A fault of libvips while reading `file`, in our words.
[[nodiscard]] tl::unexpected<Error> vipsReadError(const std::filesystem::path& file,
                                                  const std::string& detail);

}  // namespace gq::files
