#include "core/carry/chart_file.h"

#include "core/series/frame_json.h"
#include "core/series/json_check.h"
#include "core/series/plane_json.h"
#include "schemas.h"

namespace gq::carry {
using nlohmann::json;

namespace {
constexpr int kChartVersion = 1;

json shadowJson(const Shadow& s) {
    json j = series::planeToJson(s.box, s.held);
    j["doubt"] = series::planeToJson(s.box, s.doubt)["values"];
    j["aperture"] = s.aperture;
    j["spread"] = s.spread;
    j["frames"] = s.frames;
    for (const auto& w : s.witnesses) j["witnesses"].push_back({w.taken, w.told});
    return j;
}

Result<Shadow> shadowFromJson(const json& j) {
    auto held = series::planeFromJson(j);
    if (!held) return tl::unexpected(held.error());
    Shadow out{held->box,
               cv::max(held->plane, 0.0f),
               {},
               j.value("aperture", 0.0),
               j.value("spread", 0.0f),
               j.value("frames", 0),
               {}};
    for (const auto& w : j.value("witnesses", json::array()))
        out.witnesses.push_back({w[0].get<std::string>(), w[1].get<double>()});
    if (!j.contains("doubt")) return out;
    auto doubt = series::planeFromJson({{"box", j["box"]}, {"values", j["doubt"]}});
    if (!doubt) return tl::unexpected(doubt.error());
    out.doubt = doubt->plane;
    return out;
}

}  // namespace

std::string chartText(const DustChart& chart) {
    json dust = json::array();
    for (const auto& s : chart.spots) {
        json j = series::toJson(s.region);
        j["depth"] = s.depth;
        j["frames"] = s.frames;
        j["score"] = s.score;
        if (!s.shadow.empty()) j["shadow"] = shadowJson(s.shadow);
        dust.push_back(std::move(j));
    }
    json j{{"format", "gentle-quill-chart"},
           {"version", kChartVersion},
           {"camera", chart.camera},
           {"frames", chart.frames},
           {"sensor", {chart.sensor.width, chart.sensor.height}},
           {"dust", dust}};
    if (!chart.last.empty()) j["taken"] = {chart.first, chart.last};
    if (chart.widest > 0) j["apertures"] = {chart.widest, chart.narrowest};
    return j.dump(1) + "\n";
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
    if (j->contains("taken")) {
        out.first = (*j)["taken"][0].get<std::string>();
        out.last = (*j)["taken"][1].get<std::string>();
    }
    if (j->contains("apertures")) {
        out.widest = (*j)["apertures"][0].get<double>();
        out.narrowest = (*j)["apertures"][1].get<double>();
    }
    for (const auto& d : (*j)["dust"]) {
        auto region = series::regionFromJson(d);
        if (!region) {
            region.error().file = file.string();
            return tl::unexpected(region.error());
        }
        ChartSpot spot{std::move(*region),
                       d.at("depth").get<float>(),
                       d.value("frames", 1),
                       d.value("score", 0.0f),
                       {}};
        if (d.contains("shadow")) {
            auto shadow = shadowFromJson(d["shadow"]);
            if (!shadow) {
                shadow.error().file = file.string();
                return tl::unexpected(shadow.error());
            }
            spot.shadow = std::move(*shadow);
        }
        out.spots.push_back(std::move(spot));
    }
    return out;
}

}  // namespace gq::carry
