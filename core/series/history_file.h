#pragma once
#include <filesystem>

#include "core/series/history.h"

namespace gq::series {

inline constexpr long kKeptSteps = 200;  ///< that can be taken back after reopening

/// Writes the steps of a session to `folder`/history, a file a step: what it is called, and the
/// frames and settings before and after it. Steps from `from` on are written; older than the last
/// kKeptSteps go. Painted guides are not part of it;
/// those of a frame that a step took out come back with it. Errors: NoPermission, DiskFull.
[[nodiscard]] Status saveHistory(const std::filesystem::path& folder, const History& history,
                                 long from);

/// The versions around `now` as far as they were kept. Steps that do not lead to `now` (the program
/// was killed between two files) or cannot be read are left out.
[[nodiscard]] History loadHistory(const std::filesystem::path& folder, const Series& now);

}  // namespace gq::series
