#include "core/series/series_json.h"

namespace gq::series {
using nlohmann::json;

json headOf(const Series& s) {
    json j = s.unknown ? *s.unknown : json::object();
    j["format"] = "gentle-quill-series";
    j["version"] = kFormatVersion;
    j["name"] = s.name;
    j["origin"] = find::word(s.plan.origin);
    j["reference"] = s.reference;
    j["line"] = s.plan.line;
    j["strength"] = s.plan.strength;
    j["smallest"] = s.plan.smallest;
    j["largest"] = s.plan.largest;
    j["kinds"] = json::array();
    for (const auto k : s.plan.kinds) j["kinds"].push_back(find::word(k));
    j["polarities"] = json::array();
    for (const auto p : s.plan.polarities) j["polarities"].push_back(find::word(p));
    if (s.sight.use != find::Sight::Use::Off)
        j["sight"] = {{"use", s.sight.use == find::Sight::Use::Screen ? "screen" : "print"},
                      {"screen_width", s.sight.screenWidth},
                      {"print_width", s.sight.printWidth},
                      {"viewing_distance", s.sight.viewingDistance},
                      {"skip_unseen", s.skipUnseen}};
    else
        j.erase("sight");
    j["next_id"] = s.nextId;
    j["frames"] = json::array();
    for (const auto& f : s.frames) j["frames"].push_back(f->id);
    return j;
}

Series seriesOfHead(const json& head) {
    Series s;
    s.unknown = std::make_shared<const json>(head);
    s.name = head.at("name").get<std::string>();
    s.plan.origin = *find::originFromWord(head.at("origin").get<std::string>());
    s.plan.line = head.value("line", s.plan.line);
    s.plan.strength = head.value("strength", s.plan.strength);
    s.plan.smallest = head.value("smallest", s.plan.smallest);
    s.plan.largest = head.value("largest", s.plan.largest);
    if (head.contains("kinds")) {
        s.plan.kinds.clear();
        for (const auto& k : head.at("kinds"))
            s.plan.kinds.push_back(*find::kindFromWord(k.get<std::string>()));
    }
    for (const auto& p : head.value("polarities", json::array()))
        s.plan.polarities.push_back(*find::polarityFromWord(p.get<std::string>()));
    if (head.contains("sight")) {
        const json& v = head.at("sight");
        s.sight.use = v.value("use", std::string()) == "print" ? find::Sight::Use::Print
                                                               : find::Sight::Use::Screen;
        s.sight.screenWidth = v.value("screen_width", s.sight.screenWidth);
        s.sight.printWidth = v.value("print_width", s.sight.printWidth);
        s.sight.viewingDistance = v.value("viewing_distance", s.sight.viewingDistance);
        s.skipUnseen = v.value("skip_unseen", true);
    }
    s.reference = head.value("reference", std::string());
    s.nextId = head.value("next_id", Id(1));
    return s;
}

}  // namespace gq::series
