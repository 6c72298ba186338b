#pragma once
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/series/series.h"

namespace gq::series {

[[nodiscard]] nlohmann::json toJson(const Region& region);
/// Errors: Unreadable when the runs do not fit the box.
[[nodiscard]] Result<Region> regionFromJson(const nlohmann::json& json);
[[nodiscard]] nlohmann::json toJson(const find::Finding& finding);

/// `folder` is the series folder, to which the picture's path is relative where possible.
[[nodiscard]] nlohmann::json toJson(const Frame& frame, const std::filesystem::path& folder);
[[nodiscard]] Result<Frame> frameFromJson(const nlohmann::json& json,
                                          const std::filesystem::path& folder);

}  // namespace gq::series
