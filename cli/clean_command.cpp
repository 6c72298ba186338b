#include <fmt/core.h>

#include <algorithm>
#include <map>

#include "cli/batch.h"
#include "core/carry/confirm.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_writer.h"
#include "core/render/compose.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "core/render/search_series.h"

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

/// What frames tell of the dust of their camera.
struct Dust {
    carry::DustChart chart;
    series::Frame reference;  ///< bears a mend for each place of the chart
    carry::Shadows shadows;
};

/// A frame with what others tell of it: the dust of its camera, or all its findings.
struct Known {
    series::Frame frame;
    std::shared_ptr<const Dust> dust;
};
using KnownFrames = std::map<fs::path, Known>;  ///< by file

/// Three or more frames that may be of one camera: their chart, if they are.
void addCharted(const series::Series& s, const std::vector<std::string>& group,
                const Common& common, KnownFrames& out) {
    std::vector<series::FramePtr> frames;
    for (const auto& id : group) frames.push_back(s.frame(id));
    const auto& first = *frames.front();
    auto chart =
        carry::chartOf(first, frames, render::chartPixels(first), stepReport(common, "chart"));
    if (chart && first.camera.empty() && !chart->showsOneSensor()) return;
    if (chart)
        chart = carry::withShadows(std::move(*chart), frames, render::originalPixels,
                                   stepReport(common, "shadows"));
    if (!chart) return;  // too few can be read
    const auto dust = std::make_shared<const Dust>(
        Dust{*chart, carry::asReference(*chart), carry::shadowsOf(*chart)});
    for (const auto& f : frames) out[f->file] = {*f, dust};
}

/// Three or more frames of one film or scans of one flatbed, searched together.
void addSearched(const series::Series& s, const std::vector<std::string>& group,
                 const Common& common, KnownFrames& out) {
    const auto found =
        render::searchSeries(s, group, render::Untold::IfShown, stepReport(common, "search"));
    if (!found) return;  // only a wish to stop fails it
    for (const auto& note : found->notes) fmt::print(stderr, "{}\n", note);
    for (const auto& id : found->searched) {
        const auto frame = found->series.frame(id);
        out[frame->file] = {*frame, nullptr};
    }
}

/// The frames with the plan for them; none if all are done. One that cannot be read is left out,
/// and named when its turn comes.
series::Series seriesOf(const std::vector<fs::path>& files, const CleanOptions& o,
                        const Common& common) {
    const bool allDone = common.resume && std::all_of(files.begin(), files.end(), [&](auto& f) {
                             return fs::exists(targetOf(f, o));
                         });
    if (allDone) return {};
    std::vector<Error> faults;
    auto out = series::makeSeries(files, "", faults);
    out.plan = o.plan.read(out.frames);
    return out;
}

/// What frames say together.
KnownFrames knownFrames(const series::Series& s, const Common& common) {
    KnownFrames out;
    std::vector<std::string> ids;
    for (const auto& f : s.frames) ids.push_back(f->id);
    for (const auto& group : render::searchedTogether(s, ids)) {
        if (group.size() < render::kTogether) continue;
        if (s.plan.origin == find::Origin::Sensor)
            addCharted(s, group, common, out);
        else
            addSearched(s, group, common, out);
    }
    return out;
}

/// The findings to mend: what the chart's places were carried to is judged already.
std::vector<series::Id> toMend(const series::Frame& frame, float line) {
    auto out = render::openAbove(frame, line);
    std::erase_if(out, [&](series::Id id) {
        const auto* e = frame.finding(id);
        return e->charted && std::ranges::any_of(frame.carried, [&](const auto& c) {
                   return meets(c.region, e->finding.region);
               });
    });
    return out;
}

Result<std::string> clean(const fs::path& file, const Known& known, const CleanOptions& o,
                          const find::FindPlan& plan) {
    auto loaded = files::readPicture(file);
    if (!loaded) return tl::unexpected(loaded.error());
    auto frame = known.frame;
    frame.geometry.stored = loaded->picture.pixels.size();  // nothing is known of one by itself
    series::Id next = 1;
    for (const auto& e : frame.findings) next = std::max(next, e.id + 1);
    if (!frame.searched) {
        auto found = render::search(*loaded, frame, plan);
        if (!found) return tl::unexpected(found.error());
        render::takeScratches(*found);
        frame = series::withFindings(frame, std::move(found->findings), next);
    }
    Image& pixels = loaded->picture.pixels;
    mend::PatchStore made;
    if (const auto& dust = known.dust) {
        frame = carry::confirmed(frame, pixels, dust->chart, next);
        auto carried = carry::carryTo(pixels, dust->reference, frame, {}, plan.line, next,
                                      dust->shadows, {}, &made);
        if (!carried) return tl::unexpected(carried.error());
        frame = std::move(*carried);
    }
    auto mended =
        render::withMends(pixels, frame, toMend(frame, plan.line), plan.line, next, &made);
    if (!mended) return tl::unexpected(mended.error());
    if (auto ok = render::mendInPlace(pixels, *mended, plan.line, {}, &made); !ok)
        return tl::unexpected(ok.error());
    const auto format = formatFor(file, o.format, loaded->picture.bits);
    if (auto ok = files::writePicture(targetOf(file, o), *loaded,
                                      {.format = format, .replace = o.replace}, file);
        !ok)
        return tl::unexpected(ok.error());
    return fmt::format("{} mended", mended->mends.size());
}

}  // namespace

void addClean(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("clean",
                                 "find, mend what is above the line, and write clean files; three "
                                 "or more frames of one camera or film are searched together");
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
        const auto all = files::pictureFiles({o.files.begin(), o.files.end()});
        tellPagesLeft(common, all);
        const auto series = seriesOf(all, o, common);
        auto known = knownFrames(series, common);
        std::vector<BatchFrame> frames;
        for (const auto& file : all) {
            const auto& of = known[fs::absolute(file).lexically_normal()];
            frames.push_back({file, {}, {targetOf(file, o)}, [&](bool) {
                                  return clean(file, of, o, series.plan);
                              }});
        }
        runBatch(common, frames);
    });
}

}  // namespace gq::cli
