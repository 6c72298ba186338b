#pragma once
#include <filesystem>
#include <functional>
#include <string>

#include "core/pixels/result.h"

namespace gq::files {

/// Writes `target` by way of a temporary file beside it: `fill(temporary)` writes the content,
/// then it is synced and renamed, so that nobody ever sees half a file.
/// Errors: Refused when `target` exists and `replace` is false; NoPermission, DiskFull; whatever
/// `fill` returns. On any of them the temporary file is gone and `target` is as it was.
[[nodiscard]] Status writeSafely(const std::filesystem::path& target, bool replace,
                                 const std::function<Status(const std::string& temporary)>& fill);

/// Why a second picture is not written to `target` after `first` was.
[[nodiscard]] tl::unexpected<Error> targetTaken(const std::filesystem::path& target,
                                                const std::filesystem::path& first);

/// Takes away what a killed program left half written in `folder` for targets that `wanted` names;
/// not what a program of this machine that still runs is writing.
void removeLeftovers(const std::filesystem::path& folder,
                     const std::function<bool(const std::string& targetName)>& wanted);

/// As writeSafely, for a text held in memory.
[[nodiscard]] Status writeTextSafely(const std::filesystem::path& target, const std::string& text);

/// A whole text file. Errors: NotFound, Unreadable.
[[nodiscard]] Result<std::string> readText(const std::filesystem::path& file);

}  // namespace gq::files
