#include "core/render/kept_charts.h"

#include <algorithm>

#include "core/carry/chart_file.h"
#include "core/files/safe_write.h"

namespace gq::render {
namespace fs = std::filesystem;
namespace {

fs::path fileOf(const fs::path& seriesFolder, size_t number) {
    return seriesFolder / "charts" / (std::to_string(number) + ".json");
}

}  // namespace

Status keepCharts(const fs::path& seriesFolder, const std::vector<carry::DustChart>& charts) {
    std::error_code code;
    fs::create_directories(seriesFolder / "charts", code);
    if (code)
        return fail(Error::Kind::NoPermission,
                    "the folder for dust charts cannot be made (" + code.message() + ")",
                    (seriesFolder / "charts").string(), "Change the permissions of its folder.");
    for (size_t i = 0; i < charts.size(); ++i)
        if (auto ok =
                files::writeTextSafely(fileOf(seriesFolder, i + 1), carry::chartText(charts[i]));
            !ok)
            return ok;
    size_t more = charts.size() + 1;
    while (fs::remove(fileOf(seriesFolder, more), code)) ++more;
    return {};
}

Result<std::vector<carry::DustChart>> keptCharts(const fs::path& seriesFolder) {
    std::vector<carry::DustChart> out;
    std::error_code code;
    for (size_t n = 1; fs::exists(fileOf(seriesFolder, n), code); ++n) {
        auto chart = carry::loadChart(fileOf(seriesFolder, n));
        if (!chart) return tl::unexpected(chart.error());
        out.push_back(std::move(*chart));
    }
    return out;
}

std::vector<carry::DustChart> renewed(std::vector<carry::DustChart> known,
                                      const std::vector<carry::DustChart>& newer) {
    for (const auto& chart : newer) {
        const auto same = std::ranges::find_if(known, [&](const carry::DustChart& k) {
            return k.camera == chart.camera && k.sensor == chart.sensor;
        });
        if (same == known.end())
            known.push_back(chart);
        else
            *same = chart;
    }
    return known;
}

}  // namespace gq::render
