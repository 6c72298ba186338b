#pragma once
#include <filesystem>

#include "core/pixels/parallel.h"
#include "core/pixels/result.h"
#include "sim/view.h"

namespace gq::sim {

struct ShootSettings {
    int frames = 12;
    int sensorWidth = 4256;  ///< px; the height is two thirds of it
    std::uint32_t seed = 20;
    bool raw = true;  ///< write DNG beside JPEG
    int jpegQuality = 93;
};

/// Takes "Cloud watch", or a longer series of its kind, and writes `folder`/cloud-watch and
/// `folder`/truth/cloud-watch (README). A finished, equal shoot is recognised by its stamp and
/// kept. Errors: NoPermission, DiskFull, Cancelled; frames already written stay.
[[nodiscard]] Status shootCloudWatch(const std::filesystem::path& folder,
                                     const ShootSettings& settings, const Progress& progress = {},
                                     std::stop_token stop = {});

}  // namespace gq::sim
