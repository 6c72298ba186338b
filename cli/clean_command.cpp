#include <fmt/core.h>

#include "cli/batch.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_writer.h"
#include "core/render/compose.h"
#include "core/render/mend_findings.h"
#include "core/render/search.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct CleanOptions {
    std::vector<std::string> files;
    PlanOptions plan;
    std::string out, format;
    bool replace = false;
};

/// Where a frame's clean file goes; its suffix does not depend on the bits.
fs::path targetOf(const fs::path& file, const CleanOptions& o) {
    return fs::path(o.out) / (file.stem().string() + files::suffix(formatFor(file, o.format, 16)));
}

Result<std::string> clean(const fs::path& file, const CleanOptions& o, const find::FindPlan& plan) {
    auto loaded = files::readPicture(file);
    if (!loaded) return tl::unexpected(loaded.error());
    auto found = render::search(*loaded, {}, plan);
    if (!found) return tl::unexpected(found.error());
    series::Frame frame;
    series::Id next = 1;
    frame = series::withFindings(frame, std::move(found->findings), next);
    frame =
        render::withMends(loaded->picture.pixels, frame, render::openAbove(frame, plan.line), next);
    if (auto ok = render::mendInPlace(loaded->picture.pixels, frame, plan.line); !ok)
        return tl::unexpected(ok.error());
    const auto format = formatFor(file, o.format, loaded->picture.bits);
    if (auto ok = files::writePicture(targetOf(file, o), *loaded,
                                      {.format = format, .replace = o.replace}, file);
        !ok)
        return tl::unexpected(ok.error());
    return fmt::format("{} mended", frame.mends.size());
}

}  // namespace

void addClean(CLI::App& app, Common& common) {
    auto* c =
        app.add_subcommand("clean", "find, mend what is above the line, and write clean files");
    static CleanOptions o;
    c->add_option("FRAME", o.files, "pictures or folders")->required();
    addPlan(*c, o.plan, true);
    c->add_option("-o", o.out, "folder to write into")->required();
    c->add_option(
         "--format", o.format,
         "tiff8, tiff16, png8, png16 or jpeg (default: that of each frame; raw becomes tiff16)")
        ->check(CLI::IsMember({"tiff8", "tiff16", "png8", "png16", "jpeg"}));
    c->add_flag("--replace", o.replace, "replace files that are there");
    addResume(*c, common);
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        if (auto ok = makeFolder(o.out); !ok) return complain(common, ok.error());
        const auto plan = o.plan.read();
        const auto all = files::pictureFiles({o.files.begin(), o.files.end()});
        std::vector<BatchFrame> frames;
        for (const auto& file : all)
            frames.push_back({file, targetOf(file, o), [&, file] { return clean(file, o, plan); }});
        runBatch(common, frames);
    });
}

}  // namespace gq::cli
