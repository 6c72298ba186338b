#pragma once
#include <filesystem>

#include "core/pixels/result.h"

namespace gq::bench {

/// Writes `frames` packaged photographs as one camera's series into `folder`, dimmed by the dust of
/// a sensor of 1920 x 1200 px at openings from f/7.1 to f/14, and their true pictures and gains
/// into `truth`. Which photographs and which dust follows from `seed`.
/// Errors: NotFound when too few of the packages are installed; of reading and writing.
[[nodiscard]] Status shootPhotographs(const std::filesystem::path& folder,
                                      const std::filesystem::path& truth, int frames,
                                      std::uint32_t seed);

}  // namespace gq::bench
