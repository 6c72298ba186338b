#include "core/series/history_file.h"

#include <fmt/core.h>

#include <fstream>

#include "core/files/safe_write.h"
#include "core/series/frame_json.h"
#include "core/series/frame_masks.h"
#include "core/series/series_json.h"

namespace gq::series {
namespace fs = std::filesystem;
using nlohmann::json;
namespace {

fs::path stepFile(const fs::path& folder, long step) {
    return folder / "history" / fmt::format("{:08}.json", step);
}

/// The frames of `of` that `other` does not have as they are.
json framesOf(const Series& of, const Series& other, const fs::path& folder) {
    json out = json::array();
    for (const auto& f : of.frames)
        if (other.frame(f->id) != f) out.push_back(toJson(*f, folder));
    return out;
}

json readJson(const fs::path& file) {
    std::ifstream in(file);
    return in ? json::parse(in, nullptr, false) : json();
}

/// The series on the other side of a step: its settings, its frames where it tells of them, else
/// those of `beside`. Null when something is missing.
SeriesPtr across(const json& side, const Series& beside, const fs::path& folder) {
    if (!side.is_object() || !side.contains("head")) return nullptr;
    std::map<std::string, FramePtr> own;
    for (const auto& j : side.value("frames", json::array())) {
        auto frame = frameFromJson(j, folder);
        if (!frame) return nullptr;
        if (const auto like = beside.frame(frame->id)) {
            frame->guides = like->guides;
            frame->seen = like->seen;
        } else if (!loadMasks(*frame,
                              folder / "masks")) {  // it was taken out, they are still there
            return nullptr;
        }
        const std::string id = frame->id;
        own[id] = std::make_shared<const Frame>(std::move(*frame));
    }
    Series out = seriesOfHead(side["head"]);
    out.nextId = std::max(out.nextId, beside.nextId);
    for (const auto& id : side["head"].value("frames", std::vector<std::string>{})) {
        const auto it = own.find(id);
        const auto frame = it != own.end() ? it->second : beside.frame(id);
        if (!frame) return nullptr;
        out.frames.push_back(frame);
    }
    return std::make_shared<const Series>(std::move(out));
}

/// Does what a step left behind look like `now`?
bool leadsTo(const json& after, const Series& now, const fs::path& folder) {
    for (const auto& j : after.value("frames", json::array())) {
        const auto frame = now.frame(j.value("id", std::string()));
        if (!frame || toJson(*frame, folder) != j) return false;
    }
    return true;
}

History readHistory(const fs::path& folder, const Series& now) {
    const json state = readJson(folder / "history" / "state.json");
    const long at = state.is_object() ? state.value("at", 0L) : 0;
    std::vector<History::Version> back{{std::make_shared<const Series>(now), {}}}, on;
    for (long step = at; step > 0 && step > at - kKeptSteps; --step) {
        const json j = readJson(stepFile(folder, step));
        if (!j.is_object() || (step == at && !leadsTo(j.value("after", json()), now, folder)))
            break;
        const auto before = across(j.value("before", json()), *back.back().series, folder);
        if (!before) break;
        back.back().what = j.value("what", std::string());
        back.push_back({before, {}});
    }
    if (at == 0 && !state.is_object()) return History(now);
    SeriesPtr last = back.front().series;
    for (long step = at + 1; back.size() > 1 || at == 0; ++step) {
        const json j = readJson(stepFile(folder, step));
        if (!j.is_object()) break;
        last = across(j.value("after", json()), *last, folder);
        if (!last) break;
        on.push_back({last, j.value("what", std::string())});
    }
    std::vector<History::Version> all(back.rbegin(), back.rend());
    const size_t present = all.size() - 1;
    all.insert(all.end(), on.begin(), on.end());
    return {std::move(all), present, at - long(present)};
}

}  // namespace

Status saveHistory(const fs::path& given, const History& history, long from) {
    std::error_code code;
    const fs::path folder = fs::absolute(given, code).lexically_normal();
    fs::create_directories(folder / "history", code);
    const auto& v = history.versions();
    const long last = history.base() + long(v.size()) - 1, first = last - kKeptSteps + 1;
    for (size_t i = 1; i < v.size(); ++i) {
        const long step = history.base() + long(i);
        if (step < from || step < first) continue;
        const Series &before = *v[i - 1].series, &after = *v[i].series;
        const json j{
            {"what", v[i].what},
            {"before", {{"head", headOf(before)}, {"frames", framesOf(before, after, folder)}}},
            {"after", {{"head", headOf(after)}, {"frames", framesOf(after, before, folder)}}}};
        if (auto ok = files::writeTextSafely(stepFile(folder, step), j.dump()); !ok) return ok;
    }
    for (const auto& e : fs::directory_iterator(folder / "history", code)) {
        const long step = std::atol(e.path().stem().c_str());
        if (step > 0 && (step < first || step > last)) fs::remove(e.path(), code);
    }
    return files::writeTextSafely(folder / "history" / "state.json",
                                  json{{"at", history.base() + long(history.at())}}.dump());
}

History loadHistory(const fs::path& given, const Series& now) {
    std::error_code code;
    try {
        return readHistory(fs::absolute(given, code).lexically_normal(), now);
    } catch (const json::exception&) {
        return History(now);  // a damaged step is no reason to lose the present state
    }
}

}  // namespace gq::series
