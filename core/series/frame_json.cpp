#include "core/series/frame_json.h"

#include <array>
#include <utility>

#include "core/files/pixels_text.h"
#include "core/series/plane_json.h"

namespace gq::series {
namespace fs = std::filesystem;
using nlohmann::json;
namespace {

constexpr float kDarkest = -4;  ///< of a shade, whatever a file says: it is divided by

using Measures = find::Measures;
constexpr std::array<std::pair<const char*, float Measures::*>, 11> kMeasures{
    {{"contrast", &Measures::contrast},
     {"noise", &Measures::noise},
     {"peak", &Measures::peak},
     {"size", &Measures::size},
     {"length", &Measures::length},
     {"width", &Measures::width},
     {"softness", &Measures::softness},
     {"ring", &Measures::ring},
     {"colour", &Measures::colour},
     {"isolation", &Measures::isolation},
     {"rim", &Measures::rim}}};

Result<FindingEntry> findingFromJson(const json& j) {
    FindingEntry e;
    e.id = j.at("id").get<Id>();
    e.left = j.value("left", false);
    e.charted = j.value("charted", false);
    e.finding.kind = *find::kindFromWord(j.at("kind").get<std::string>());
    e.finding.polarity = *find::polarityFromWord(j.at("polarity").get<std::string>());
    e.finding.confidence = j.at("confidence").get<float>();
    const json measures = j.value("measures", json::object());
    for (const auto& [name, member] : kMeasures)
        e.finding.measures.*member = measures.value(name, 0.0f);
    auto region = regionFromJson(j.at("region"));
    if (!region) return tl::unexpected(region.error());
    e.finding.region = std::move(*region);
    return e;
}

/// Settings that only some methods use are written where they differ from the plain ones.
void addSpecial(const mend::Mend& m, json& j) {
    if (m.source) j["source"] = {m.source->x, m.source->y};
    if (!m.turn.none())
        j["turn"] = {
            {"degrees", m.turn.degrees}, {"scale", m.turn.scale}, {"mirrored", m.turn.mirrored}};
    if (m.method == mend::Method::TouchIn) j["tone"] = m.tone;
    if (m.method == mend::Method::Sift)
        j["sifting"] = {{"largest", m.sifting.largest},
                        {"contrast", m.sifting.contrast},
                        {"light", m.sifting.light},
                        {"dark", m.sifting.dark}};
    if (m.lent)
        j["lent"] = {{"frame", m.lent->frame},
                     {"at", {m.lent->box.x, m.lent->box.y}},
                     {"png", files::pixelsToText(m.lent->pixels)}};
    if (m.shade) j["shade"] = planeToJson(m.shade->box, m.shade->logShare);
    for (const auto& line : m.guides) {
        json points = json::array();
        for (const PointF& p : line) points.push_back({p.x, p.y});
        j["guides"].push_back(points);
    }
}

void readSpecial(const json& j, mend::Mend& m) {
    if (j.contains("source"))
        m.source = Point(j["source"][0].get<int>(), j["source"][1].get<int>());
    const json turn = j.value("turn", json::object()), sifting = j.value("sifting", json::object());
    m.turn = {turn.value("degrees", m.turn.degrees), turn.value("scale", m.turn.scale),
              turn.value("mirrored", m.turn.mirrored)};
    m.tone = j.value("tone", m.tone);
    m.sifting = {sifting.value("largest", m.sifting.largest),
                 sifting.value("contrast", m.sifting.contrast),
                 sifting.value("light", m.sifting.light), sifting.value("dark", m.sifting.dark)};
    for (const auto& line : j.value("guides", json::array())) {
        auto& points = m.guides.emplace_back();
        for (const auto& p : line) points.emplace_back(p[0].get<float>(), p[1].get<float>());
    }
}

json mendToJson(const MendEntry& e) {
    json j{{"id", e.id},
           {"method", mend::word(e.mend.method)},
           {"softness", e.mend.softness},
           {"strength", e.mend.strength},
           {"grain", e.mend.grain},
           {"candidate", e.mend.candidate},
           {"muted", e.muted},
           {"region", toJson(e.mend.region)}};
    if (e.finding) j["finding"] = e.finding;
    if (!e.group.empty()) j["group"] = e.group;
    addSpecial(e.mend, j);
    return j;
}

Result<MendEntry> mendFromJson(const json& j) {
    MendEntry e;
    e.id = j.at("id").get<Id>();
    e.finding = j.value("finding", Id(0));
    e.muted = j.value("muted", false);
    e.mend.method = *mend::methodFromWord(j.at("method").get<std::string>());
    e.mend.softness = j.value("softness", e.mend.softness);
    e.mend.strength = j.value("strength", e.mend.strength);
    e.mend.grain = j.value("grain", e.mend.grain);
    e.mend.candidate = j.value("candidate", 0);
    e.group = j.value("group", std::string());
    readSpecial(j, e.mend);
    if (j.contains("lent")) {
        const json& lent = j["lent"];
        auto pixels = files::pixelsFromText(lent.at("png").get<std::string>());
        if (!pixels) return tl::unexpected(pixels.error());
        const Point at(lent.at("at")[0].get<int>(), lent.at("at")[1].get<int>());
        e.mend.lent = std::make_shared<const mend::LentPixels>(mend::LentPixels{
            lent.value("frame", std::string()), Rect(at, pixels->size()), *pixels});
    }
    if (j.contains("shade")) {
        auto shade = planeFromJson(j["shade"]);
        if (!shade) return tl::unexpected(shade.error());
        e.mend.shade = std::make_shared<const mend::KnownShade>(
            mend::KnownShade{shade->box, cv::max(ImageF(cv::min(shade->plane, 0.0f)), kDarkest)});
    }
    auto region = regionFromJson(j.at("region"));
    if (!region) return tl::unexpected(region.error());
    e.mend.region = std::move(*region);
    return e;
}

json carriedToJson(const CarriedEntry& e) {
    json j{{"from_frame", e.fromFrame},
           {"from_mend", e.fromMend},
           {"verdict", word(e.verdict)},
           {"region", toJson(e.region)}};
    if (e.mend) j["mend"] = e.mend;
    if (e.fromKey) j["from_key"] = e.fromKey;
    return j;
}

Result<CarriedEntry> carriedFromJson(const json& j) {
    CarriedEntry e;
    e.fromFrame = j.at("from_frame").get<std::string>();
    e.fromMend = j.at("from_mend").get<Id>();
    e.mend = j.value("mend", Id(0));
    e.fromKey = j.value("from_key", std::uint64_t(0));
    e.verdict = *verdictFromWord(j.at("verdict").get<std::string>());
    auto region = regionFromJson(j.at("region"));
    if (!region) return tl::unexpected(region.error());
    e.region = std::move(*region);
    return e;
}

json inversionToJson(const film::Inversion& v) {
    return {{"base", v.base},
            {"white", v.white},
            {"exposure", v.exposure},
            {"contrast", v.contrast},
            {"monochrome", v.monochrome}};
}

film::Inversion inversionFromJson(const json& j) {
    film::Inversion v;
    v.base = j.at("base").get<std::array<float, 3>>();
    v.white = j.value("white", v.white);
    v.exposure = j.value("exposure", v.exposure);
    v.contrast = j.value("contrast", v.contrast);
    v.monochrome = j.value("monochrome", false);
    return v;
}

template <class Entry, class Read>
Status readList(const json& j, const char* name, std::vector<Entry>& out, Read read) {
    for (const auto& item : j.value(name, json::array())) {
        auto entry = read(item);
        if (!entry) return tl::unexpected(entry.error());
        out.push_back(std::move(*entry));
    }
    return {};
}

}  // namespace

json toJson(const Region& region) {
    return {{"box", {region.box.x, region.box.y, region.box.width, region.box.height}},
            {"runs", runs(region)}};
}

Result<Region> regionFromJson(const json& j) {
    const auto& b = j.at("box");
    return regionFromRuns(Rect(b[0].get<int>(), b[1].get<int>(), b[2].get<int>(), b[3].get<int>()),
                          j.at("runs").get<std::string>());
}

json toJson(const find::Finding& f) {
    json measures = json::object();
    for (const auto& [name, member] : kMeasures) measures[name] = f.measures.*member;
    return {{"kind", find::word(f.kind)},
            {"polarity", find::word(f.polarity)},
            {"confidence", f.confidence},
            {"measures", measures},
            {"region", toJson(f.region)}};
}

json toJson(const Frame& f, const fs::path& folder) {
    json j = f.unknown ? *f.unknown : json::object();
    const auto relative = [&](const fs::path& file) {
        const fs::path out = file.lexically_relative(folder);
        return out.empty() ? file.string() : out.string();
    };
    j["id"] = f.id;
    j["file"] = relative(f.file);
    j.erase("companion");
    if (!f.companion.empty()) j["companion"] = relative(f.companion);
    j["purpose"] = word(f.purpose);
    j["set"] = f.set;
    j["bytes"] = f.bytes;
    j["hash"] = f.hash;
    j["size"] = {f.geometry.stored.width, f.geometry.stored.height};
    j["orientation"] = int(f.geometry.orientation);
    j.erase("sensor");
    if (const auto& g = f.geometry; !g.sensor.empty())
        j["sensor"] = {{"size", {g.sensor.width, g.sensor.height}},
                       {"corner", {int(g.cropOffset.x), int(g.cropOffset.y)}},
                       {"turn", int(g.storedTurn)}};
    j["camera"] = f.camera;
    j["taken"] = f.taken;
    j["aperture"] = f.aperture;
    if (f.pixelsPerMm > 0) j["pixels_per_mm"] = f.pixelsPerMm;
    j["searched"] = f.searched;
    if (f.inversion)
        j["inversion"] = inversionToJson(*f.inversion);
    else
        j.erase("inversion");
    j["findings"] = json::array();
    for (const auto& e : f.findings) {
        json entry = toJson(e.finding);
        entry["id"] = e.id;
        entry["left"] = e.left;
        if (e.charted) entry["charted"] = true;
        j["findings"].push_back(std::move(entry));
    }
    j["mends"] = json::array();
    for (const auto& e : f.mends) j["mends"].push_back(mendToJson(e));
    j["carried"] = json::array();
    for (const auto& e : f.carried) j["carried"].push_back(carriedToJson(e));
    return j;
}

Result<Frame> frameFromJson(const json& j, const fs::path& folder) {
    Frame f;
    f.unknown = std::make_shared<const json>(j);
    f.id = j.at("id").get<std::string>();
    const auto absolute = [&](const fs::path& file) {
        return (file.is_absolute() ? file : folder / file).lexically_normal();
    };
    f.file = absolute(j.at("file").get<std::string>());
    if (j.contains("companion")) f.companion = absolute(j["companion"].get<std::string>());
    f.purpose = purposeFromWord(j.value("purpose", std::string())).value_or(Purpose::Alone);
    f.set = j.value("set", std::string());
    f.bytes = j.value("bytes", std::uintmax_t(0));
    f.hash = j.value("hash", std::string());
    f.geometry.stored = {j.at("size")[0].get<int>(), j.at("size")[1].get<int>()};
    f.geometry.orientation = orientationFromExif(j.at("orientation").get<int>());
    if (j.contains("sensor")) {
        const auto& s = j["sensor"];
        f.geometry.sensor = {s.at("size")[0].get<int>(), s.at("size")[1].get<int>()};
        f.geometry.cropOffset = {s.at("corner")[0].get<float>(), s.at("corner")[1].get<float>()};
        f.geometry.storedTurn = orientationFromExif(s.at("turn").get<int>());
    }
    f.camera = j.value("camera", std::string());
    f.taken = j.value("taken", std::string());
    f.aperture = j.value("aperture", 0.0);
    f.pixelsPerMm = j.value("pixels_per_mm", 0.0);
    f.searched = j.value("searched", false);
    if (j.contains("inversion")) f.inversion = inversionFromJson(j["inversion"]);
    if (auto ok = readList(j, "findings", f.findings, findingFromJson); !ok)
        return tl::unexpected(ok.error());
    if (auto ok = readList(j, "mends", f.mends, mendFromJson); !ok)
        return tl::unexpected(ok.error());
    if (auto ok = readList(j, "carried", f.carried, carriedFromJson); !ok)
        return tl::unexpected(ok.error());
    return f;
}

}  // namespace gq::series
