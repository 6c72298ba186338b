#pragma once
#include <filesystem>
#include <nlohmann/json.hpp>

#include "core/pixels/result.h"

namespace gq::series {

/// Reads a JSON file and checks it against a schema of docs/format.
/// Errors: NotFound, Unreadable (not JSON, or a field the schema refuses: named in the message).
[[nodiscard]] Result<nlohmann::json> readChecked(const std::filesystem::path& file,
                                                 const char* schema);

/// Errors NewerVersion when `version` of `json` is over `known`.
[[nodiscard]] Status checkVersion(const nlohmann::json& json, int known,
                                  const std::filesystem::path& file);

}  // namespace gq::series
