#pragma once
#include <filesystem>

#include "core/carry/chart.h"

namespace gq::carry {

/// The chart as JSON text (docs/format/chart.schema.json).
[[nodiscard]] std::string chartText(const DustChart& chart);
/// Errors: NotFound, Unreadable, NewerVersion.
[[nodiscard]] Result<DustChart> loadChart(const std::filesystem::path& file);

}  // namespace gq::carry
