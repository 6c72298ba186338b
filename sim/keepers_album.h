#pragma once
#include <filesystem>

#include "core/pixels/parallel.h"
#include "core/pixels/result.h"

namespace gq::sim {

/// Scans "Keeper's album" on the simulated flatbed: four faded prints with paper margins, a little
/// askew, cracked, creased, foxed, stained and torn, as 16-bit TIFF of 600 pixels per inch, into
/// `folder`/keepers-album, with clean scans and true maps in `folder`/truth/keepers-album.
/// `width` is a scan's, px. A finished, equal album is kept.
/// Errors: NoPermission, DiskFull, Cancelled.
[[nodiscard]] Status scanKeepersAlbum(const std::filesystem::path& folder, int width,
                                      std::uint32_t seed, const Progress& progress = {},
                                      std::stop_token stop = {});

}  // namespace gq::sim
