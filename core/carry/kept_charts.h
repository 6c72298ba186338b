#pragma once
#include <filesystem>

#include "core/carry/chart.h"

namespace gq::carry {

/// Keeps the charts of a series in its folder, as charts/1.json and on, in place of those that were
/// there. Errors: NoPermission, DiskFull.
[[nodiscard]] Status keepCharts(const std::filesystem::path& seriesFolder,
                                const std::vector<DustChart>& charts);

/// Those that are kept there; none if there are none. Errors: Unreadable, NewerVersion.
[[nodiscard]] Result<std::vector<DustChart>> keptCharts(const std::filesystem::path& seriesFolder);

/// `known` with each of `newer` in place of that of the same camera and sensor, or added.
[[nodiscard]] std::vector<DustChart> renewed(std::vector<DustChart> known,
                                             const std::vector<DustChart>& newer);

}  // namespace gq::carry
