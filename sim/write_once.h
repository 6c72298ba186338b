#pragma once
#include <filesystem>
#include <functional>
#include <string>

#include "core/pixels/parallel.h"
#include "core/pixels/result.h"

namespace gq::sim {

/// Makes both folders and writes `count` frames on all threads, then a stamp into `truth`; a series
/// whose stamp is already there is kept as it is. Errors: the first frame's, Cancelled.
[[nodiscard]] Status writeOnce(const std::filesystem::path& frames,
                               const std::filesystem::path& truth, const std::string& stamp,
                               int count, const std::function<Status(int)>& writeFrame,
                               const Progress& progress, std::stop_token stop);

}  // namespace gq::sim
