#pragma once
#include <filesystem>
#include <optional>

#include "sim/wear.h"

namespace gq::sim {

/// Wears a picture file and writes into `folder`: NAME.tif (worn, 8 or 16 bits as it came),
/// NAME.clean.tif, and NAME.KIND.png per kind of wear that it bears, 255 where it lies.
/// Errors: those of reading and writing; nothing is overwritten unless `replace`.
[[nodiscard]] Status wearFile(const std::filesystem::path& picture,
                              const std::filesystem::path& folder, const WearPlan& plan,
                              bool replace);

/// Writes a map per kind beside `stem`: STEM.KIND.png.
[[nodiscard]] Status writeMaps(const std::filesystem::path& stem, const Worn& worn);

[[nodiscard]] std::optional<Medium> mediumFromWord(const std::string& text);

}  // namespace gq::sim
