#pragma once
#include <filesystem>
#include <string>

#include "core/pixels/result.h"

namespace gq::files {

/// 32 hexadecimal digits over a file's bytes (XXH3, 128 bits): tells a changed file from the one
/// that was worked on; not a defence against forgery. Errors: NotFound, Unreadable.
[[nodiscard]] Result<std::string> contentHash(const std::filesystem::path& file);

}  // namespace gq::files
