#include <fmt/core.h>

#include "cli/common.h"
#include "core/files/folder_scan.h"
#include "core/render/mended_set.h"
#include "core/render/merged.h"
#include "core/render/search_series.h"
#include "core/series/series_folder.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct MergeOptions {
    std::vector<std::string> files;
    std::string as, from, out;
    bool replace = false;
    PlanOptions plan;
};

series::FramePtr renamed(series::Frame frame, const std::string& id) {
    frame.id = id;
    return std::make_shared<const series::Frame>(std::move(frame));
}

/// The frames with what a series knows of them. Without one they are searched and mended now.
Result<std::vector<series::FramePtr>> framesOf(const MergeOptions& o, series::Purpose purpose,
                                               Common& common) {
    std::vector<Error> faults;
    const auto files = files::pictureFiles(std::vector<fs::path>(o.files.begin(), o.files.end()));
    auto plain = series::makeSeries(files, "", faults);
    for (const auto& f : faults) {
        if (f.kind != Error::Kind::Partial) return tl::unexpected(f);
        complain(common, f);
    }
    if (!o.from.empty()) {
        const auto known = series::loadSeries(o.from);
        if (!known) return tl::unexpected(known.error());
        plain.plan = known->plan;
        for (auto& f : plain.frames)
            for (const auto& k : known->frames)
                if (k->file == f->file) f = renamed(*k, f->id);
        if (purpose != series::Purpose::Panorama) return plain.frames;
        // Where the others are clean has to be known for the seams.
        return render::searchedFrames(plain, plain.frames, render::Untold::OneCamera);
    }
    plain.plan = o.plan.read(plain.frames);
    std::vector<std::string> ids;
    for (const auto& f : plain.frames) ids.push_back(f->id);
    const auto found =
        render::searchSeries(series::withSet(plain, ids, purpose), ids, render::Untold::OneCamera);
    if (!found) return tl::unexpected(found.error());
    if (!found->faults.empty()) return tl::unexpected(found->faults.front());
    return render::mendedSet(found->series, found->charts).transform([](const auto& s) {
        return s.frames;
    });
}

Result<std::string> run(const MergeOptions& o, Common& common) {
    const auto purpose = *series::purposeFromWord(o.as);
    const auto format = files::formatForName(o.out, 16);
    if (!format)
        return fail(Error::Kind::BadSetting, "this suffix names no format that can be written",
                    o.out, "Use .tif, .png or .jpg.");
    const auto frames = framesOf(o, purpose, common);
    if (!frames) return tl::unexpected(frames.error());
    for (const auto& f : *frames)
        if (std::error_code code; fs::equivalent(f->file, o.out, code))
            return fail(Error::Kind::Refused, "this is an original, which is never written to",
                        o.out, "Choose another name.");
    const auto made = render::merged(*frames, purpose, o.plan.plan.line, 0);
    if (!made) return tl::unexpected(made.error());
    if (auto ok =
            files::writePicture(o.out, made->picture, {.format = *format, .replace = o.replace});
        !ok)
        return tl::unexpected(ok.error());
    const Size pixels = made->picture.picture.size();
    const std::string size = fmt::format("{} x {}", pixels.width, pixels.height);
    if (purpose != series::Purpose::Panorama)
        return made->untold == 0 ? size
                                 : fmt::format("{}, {} frames show too little to tell how they lie",
                                               size, made->untold);
    return fmt::format("{}, {} blemishes left out by the seams, {} only one frame shows", size,
                       made->avoided, made->left);
}

}  // namespace

void addMerge(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("merge", "put a bracket, a focus stack or a panorama together");
    static MergeOptions o;
    c->add_option("FRAME", o.files, "pictures or folders")->required();
    c->add_option("--as", o.as, "bracket, focus stack or panorama")
        ->required()
        ->check(CLI::IsMember({"bracket", "focus stack", "panorama"}));
    c->add_option("--from", o.from, "series folder that knows the frames' mends");
    c->add_option("-o", o.out, "picture to write")->required();
    c->add_flag("--replace", o.replace, "replace a file that is there");
    addPlan(*c, o.plan, true);
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        const auto done = run(o, common);
        if (!done) return complain(common, done.error());
        fmt::print("{}: {}\n", o.out, *done);
    });
}

}  // namespace gq::cli
