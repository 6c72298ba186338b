#pragma once
#include <filesystem>
#include <vector>

#include "core/find/find_plan.h"
#include "tools/accuracy/score.h"

namespace gq::accuracy {

/// A frame of a demo series as it was found, worn and clean.
struct DemoFrame {
    std::string name;
    Score worn, clean;
};

/// Searches the frames of `demo`/`series`, and their clean twins, at defaults as `gquill find` does
/// and scores both against the true maps (or gain map) in `demo`/truth/`series`. Errors: NotFound
/// (not rendered), those of reading and searching.
[[nodiscard]] Result<std::vector<DemoFrame>> searchDemo(const std::filesystem::path& demo,
                                                        const std::string& series,
                                                        find::Origin origin);

}  // namespace gq::accuracy
