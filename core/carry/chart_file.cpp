#include "core/carry/chart_file.h"

#include "core/series/frame_json.h"
#include "core/series/json_check.h"
#include "schemas.h"

namespace gq::carry {
using nlohmann::json;

namespace {
constexpr int kChartVersion = 1;
}

std::string chartText(const DustChart& chart) {
    json dust = json::array();
    for (const auto& s : chart.spots) {
        json j = series::toJson(s.region);
        j["depth"] = s.depth;
        j["frames"] = s.frames;
        j["score"] = s.score;
        dust.push_back(std::move(j));
    }
    return json{{"format", "gentle-quill-chart"},
                {"version", kChartVersion},
                {"camera", chart.camera},
                {"frames", chart.frames},
                {"sensor", {chart.sensor.width, chart.sensor.height}},
                {"dust", dust}}
               .dump(1) +
           "\n";
}

Result<DustChart> loadChart(const std::filesystem::path& file) {
    const auto j = series::readChecked(file, series::kChartSchema);
    if (!j) return tl::unexpected(j.error());
    if (auto ok = series::checkVersion(*j, kChartVersion, file); !ok)
        return tl::unexpected(ok.error());
    DustChart out;
    out.camera = j->value("camera", std::string());
    out.frames = j->value("frames", 1);
    out.sensor = {(*j)["sensor"][0].get<int>(), (*j)["sensor"][1].get<int>()};
    for (const auto& d : (*j)["dust"]) {
        auto region = series::regionFromJson(d);
        if (!region) {
            region.error().file = file.string();
            return tl::unexpected(region.error());
        }
        out.spots.push_back({std::move(*region), d.at("depth").get<float>(), d.value("frames", 1),
                             d.value("score", 0.0f)});
    }
    return out;
}

}  // namespace gq::carry
