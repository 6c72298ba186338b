#include <fmt/core.h>

#include <nlohmann/json.hpp>

#include "cli/common.h"
#include "core/files/picture_writer.h"
#include "core/render/search.h"
#include "core/series/frame_json.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct FindOptions {
    std::vector<std::string> files;
    PlanOptions plan;
    std::string mask, json;
};

Mask maskOf(const std::vector<find::Finding>& found, const Size& size, float line) {
    Mask mask(size, CV_8U, cv::Scalar(0));
    for (const auto& f : found)
        if (f.confidence >= line) paint(mask, f.region);
    return mask;
}

nlohmann::json jsonOf(const fs::path& file, const std::vector<find::Finding>& found, float line) {
    nlohmann::json list = nlohmann::json::array();
    for (const auto& f : found) {
        auto j = series::toJson(f);
        j["above_line"] = f.confidence >= line;
        const auto c = f.region.centre();
        j["centre"] = {c.x, c.y};
        list.push_back(std::move(j));
    }
    return {{"file", file.string()}, {"findings", list}};
}

void run(FindOptions& o, Common& common) {
    setThreads(common.threads);
    const auto plan = o.plan.read();
    const bool folder = o.files.size() > 1 || fs::is_directory(o.mask) || o.mask.ends_with('/');
    if (folder && !o.mask.empty())
        if (auto ok = makeFolder(o.mask); !ok) return complain(common, ok.error());
    nlohmann::json all = nlohmann::json::array();
    forFrames(common, o.files, [&](const fs::path& file) -> Status {
        const auto loaded = files::readPicture(file);
        if (!loaded) return tl::unexpected(loaded.error());
        const auto searched = render::search(*loaded, {}, plan);
        if (!searched) return tl::unexpected(searched.error());
        for (const auto& note : searched->notes)
            fmt::print(stderr, "{}: {}\n", file.string(), note);
        const auto* found = &searched->findings;
        if (!o.json.empty()) all.push_back(jsonOf(file, *found, plan.line));
        if (!o.mask.empty()) {
            const fs::path target =
                folder ? fs::path(o.mask) / (file.stem().string() + ".png") : fs::path(o.mask);
            std::error_code code;
            if (fs::equivalent(target, file, code))
                return fail(Error::Kind::Refused, "this is an original, which is never written to",
                            target.string(), "Choose another name for the mask.");
            if (auto ok =
                    files::writeImage8(target, maskOf(*found, loaded->picture.size(), plan.line));
                !ok)
                return ok;
        }
        if (o.json.empty() && o.mask.empty()) {
            const auto above = std::count_if(found->begin(), found->end(), [&](const auto& f) {
                return f.confidence >= plan.line;
            });
            return put("-", file.string() + ": " + std::to_string(above) + " findings, " +
                                std::to_string(long(found->size()) - above) + " below the line\n");
        }
        return {};
    });
    if (!o.json.empty())
        if (auto ok = put(o.json, all.dump(1) + "\n"); !ok) complain(common, ok.error());
}

}  // namespace

void addFind(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("find", "search frames for blemishes");
    static FindOptions o;
    c->add_option("FRAME", o.files, "pictures or folders")->required();
    addPlan(*c, o.plan, true);
    c->add_option("--mask", o.mask,
                  "8-bit PNG, 255 on findings above the line; a folder for several frames");
    c->add_option("--json", o.json, "findings as JSON, - for standard output");
    addCommon(*c, common);
    c->callback([&] { run(o, common); });
}

}  // namespace gq::cli
