#pragma once
#include <nlohmann/json.hpp>

#include "core/series/series.h"

namespace gq::series {

inline constexpr int kFormatVersion = 1;

/// All of a series but its frames, of which only the ids are named.
[[nodiscard]] nlohmann::json headOf(const Series& series);
/// The inverse, without frames. `head` has been checked against the schema.
[[nodiscard]] Series seriesOfHead(const nlohmann::json& head);

}  // namespace gq::series
