#pragma once
#include <filesystem>

#include "core/pixels/parallel.h"
#include "core/pixels/result.h"

namespace gq::sim {

/// Scans "Roll 7" with the simulated scanner: eight negatives of instruments and storms, five on
/// colour and three on silver film, as 16-bit TIFF with an infrared fourth plane (missing on one),
/// into `folder`/roll-7, with clean scans and true maps in `folder`/truth/roll-7. Two tramlines run
/// along the whole roll. `width` is a frame's, px. A finished, equal roll is kept.
/// Errors: NoPermission, DiskFull, Cancelled.
[[nodiscard]] Status scanRollSeven(const std::filesystem::path& folder, int width,
                                   std::uint32_t seed, const Progress& progress = {},
                                   std::stop_token stop = {});

}  // namespace gq::sim
