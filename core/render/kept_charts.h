#pragma once
#include <filesystem>

#include "core/carry/chart.h"

namespace gq::render {

/// Keeps the charts of a series in its folder, as charts/1.json and on, in place of those that were
/// there. Errors: NoPermission, DiskFull.
[[nodiscard]] Status keepCharts(const std::filesystem::path& seriesFolder,
                                const std::vector<carry::DustChart>& charts);

/// Those that are kept there; none if there are none. Errors: Unreadable, NewerVersion.
[[nodiscard]] Result<std::vector<carry::DustChart>> keptCharts(
    const std::filesystem::path& seriesFolder);

/// `known` with each of `newer` in place of that of the same camera and sensor, or added.
[[nodiscard]] std::vector<carry::DustChart> renewed(std::vector<carry::DustChart> known,
                                                    const std::vector<carry::DustChart>& newer);

}  // namespace gq::render
