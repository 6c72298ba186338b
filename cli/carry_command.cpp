#include <fmt/core.h>

#include <algorithm>

#include "cli/batch.h"
#include "core/carry/chart_file.h"
#include "core/carry/chart_match.h"
#include "core/carry/glass_dust.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_writer.h"
#include "core/pixels/words.h"
#include "core/render/compose.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "core/render/search_series.h"
#include "core/series/series_folder.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct CarryOptions {
    std::string from, reference, chart, out, format;
    std::vector<std::string> files;
    bool sameSource = false, heal = false, replace = false, raw = false, compare = false;
    std::vector<int> corner;  ///< left, top
    int turned = 0;           ///< degrees clockwise
    PlanOptions plan;
};

/// A series folder, a folder of pictures with a series in it, or plain pictures.
Result<series::Series> seriesAt(const fs::path& folder, std::vector<Error>& faults) {
    if (series::isSeriesFolder(folder)) return series::loadSeries(folder);
    if (series::isSeriesFolder(series::seriesFolderFor(folder)))
        return series::loadSeries(series::seriesFolderFor(folder));
    auto out =
        series::makeSeries(files::pictureFiles({folder}), folder.filename().string(), faults);
    if (out.frames.empty())
        return fail(Error::Kind::NotFound, "there is no series and no picture in it",
                    folder.string(), "Name a folder with pictures.");
    return out;
}

series::FramePtr frameNamed(const series::Series& s, const std::string& name) {
    for (const auto& f : s.frames)
        if (f->id == name || f->name() == name || f->file.filename() == name ||
            f->file == fs::absolute(name).lexically_normal())
            return f;
    return nullptr;
}

struct Reference {
    series::Frame own;   ///< with its mends, or those of what is found on it now
    series::Frame from;  ///< what of it is carried, and what it hides but other scans show
};

/// Of film and prints some other frames of the roll or the flatbed have a say.
Result<Reference> mended(series::Series s, const series::Frame& frame, const find::FindPlan& plan,
                         series::Id& next, const Progress& progress) {
    constexpr size_t kOthers = 8;
    if (!frame.mends.empty()) return Reference{frame, frame};
    std::vector<std::string> ids{frame.id};
    if (plan.origin != find::Origin::Sensor)
        for (const auto& f : carry::evenlyPicked(s.frames, kOthers))
            if (f->id != frame.id) ids.push_back(f->id);
    s.plan = plan;
    s.nextId = next;
    const auto found = render::searchSeries(s, ids, render::Untold::IfShown, progress);
    if (!found) return tl::unexpected(found.error());
    const auto with = found->series.frame(frame.id);
    if (!with->searched) return tl::unexpected(found->faults.front());
    next = found->series.nextId;
    const auto pixels = render::originalPixels(*with);
    if (!pixels) return tl::unexpected(pixels.error());
    Reference out;
    auto own =
        render::withMends(*pixels, *with, render::openAbove(*with, plan.line), plan.line, next);
    if (!own) return tl::unexpected(own.error());
    out.own = std::move(*own);
    out.from =
        plan.origin == find::Origin::Print ? carry::glassOf(out.own, found->series, next) : out.own;
    return out;
}

struct Job {
    series::Frame reference;
    std::vector<series::FramePtr> targets;
    carry::Shadows shadows;
    bool foundNow = false;  ///< the reference's mends were made for this, not by a person
    float line = 0.5f;
    series::Id next = 1;
};

/// Where a frame's files go; their suffix does not depend on the bits.
std::vector<fs::path> targetsOf(const series::Frame& frame, const CarryOptions& o) {
    render::DeliveryPlan plan{.dng = o.format == "dng", .rawToo = o.raw};
    if (!plan.dng) plan.write.format = formatFor(frame.file, o.format, 16);
    return render::deliveryPaths(frame, o.out, plan);
}

Result<std::string> carryOne(const Job& job, const series::Frame& target, const CarryOptions& o,
                             bool replace) {
    auto loaded = render::openOriginal(target, false);
    if (!loaded) return tl::unexpected(loaded.error());
    carry::CarryPlan plan{job.reference.id,
                          {},
                          {target.id},
                          o.sameSource ? carry::SourceRule::Same : carry::SourceRule::Fresh,
                          carry::Existing::Replace};
    plan.unshade = !o.heal;
    plan.mayHeal = o.format != "dng";
    series::Id next = job.next;
    series::Frame frame = target;
    mend::PatchStore made;
    if (target.id != job.reference.id) {
        auto done = carry::carryTo(loaded->picture.pixels, job.reference, target, plan, job.line,
                                   next, job.shadows, {}, &made);
        if (!done) return tl::unexpected(done.error());
        frame = std::move(*done);
    } else if (job.foundNow && !o.heal) {
        frame = carry::unshaded(target, loaded->picture.pixels, job.shadows);
    }
    const fs::path to = targetsOf(frame, o).front();
    if (o.format == "dng")
        return files::looksRaw(frame.file)
                   ? render::exportOpenedDng(frame, loaded->picture.pixels, job.line, to, replace)
                   : render::exportDng(frame, {}, job.line, to, replace);
    if (auto ok = render::mendInPlace(loaded->picture.pixels, frame, job.line, {}, &made); !ok)
        return tl::unexpected(ok.error());
    std::array<int, 3> count{};
    for (const auto& c : frame.carried) ++count[size_t(c.verdict)];
    if (auto ok = files::writePicture(
            to, *loaded,
            {.format = formatFor(frame.file, o.format, loaded->picture.bits), .replace = replace},
            frame.file);
        !ok)
        return tl::unexpected(ok.error());
    if (o.raw && !frame.companion.empty())
        if (auto ok = render::exportRaw(frame, job.line, to, replace); !ok)
            return tl::unexpected(ok.error());
    if (target.id == job.reference.id)
        return "the reference, " + counted(long(frame.mends.size()), "mend");
    return fmt::format("{} mended, {} not visible, {} need a look", count[0], count[1], count[2]);
}

Orientation turnOf(int degrees) {
    if (degrees == 90) return Orientation::Turn90;
    if (degrees == 180) return Orientation::Turn180;
    return degrees == 270 ? Orientation::Turn270 : Orientation::Upright;
}

/// The frames as parts of the reference's sensor; one that does not fit is left out. A corner is
/// for those of another size.
void takeAsCut(std::vector<series::FramePtr>& frames, const series::Frame& reference,
               const CarryOptions& o, std::vector<Error>& faults) {
    if (o.corner.empty() && o.turned == 0) return;
    carry::Cut cut{reference.geometry.sensorSize(), turnOf(o.turned), {}};
    if (!o.corner.empty()) cut.corner = {o.corner[0], o.corner[1]};
    std::erase_if(frames, [&](series::FramePtr& f) {
        if (f->id == reference.id) return false;
        if (!o.corner.empty() && f->geometry.stored == cut.sensor) return false;
        auto part = carry::asCut(*f, cut);
        if (part)
            f = std::make_shared<const series::Frame>(std::move(*part));
        else
            faults.push_back(part.error());
        return !part;
    });
}

Result<Job> jobFromSeries(const CarryOptions& o, const Common& common, std::vector<Error>& faults) {
    auto s = seriesAt(o.from, faults);
    if (!s) return tl::unexpected(s.error());
    const auto found = frameNamed(*s, o.reference);
    if (!found)
        return fail(Error::Kind::NotFound, "there is no such frame in the series", o.reference,
                    "Name one of its files.");
    const auto plan = series::isSeriesFolder(o.from) ? s->plan : o.plan.read(s->frames);
    Job job;
    job.next = s->nextId;
    job.line = plan.line;
    job.foundNow = found->mends.empty();
    auto reference = mended(*s, *found, plan, job.next, stepReport(common, "search"));
    if (!reference) return tl::unexpected(reference.error());
    job.reference = std::move(reference->from);
    takeAsCut(s->frames, job.reference, o, faults);
    const bool alike = std::any_of(s->frames.begin(), s->frames.end(), [&](const auto& f) {
        return f->id != job.reference.id && series::correctedAlike(job.reference, *f);
    });
    if (o.sameSource || alike) {
        const auto image = render::originalPixels(job.reference);
        if (!image) return tl::unexpected(image.error());
        job.reference = *carry::pinned(*image, job.reference, job.line);
    }
    *s = s->with(plan.origin == find::Origin::Print ? reference->own : job.reference);
    job.targets = s->frames;
    if (o.sameSource || plan.origin != find::Origin::Sensor) return job;
    if (job.foundNow && !o.heal) {  // what it hides but the series shows
        const auto chart =
            carry::chartOf(job.reference, job.targets, render::chartPixels(job.reference),
                           stepReport(common, "chart"));
        if (chart) job.reference = carry::withChartMends(job.reference, *chart, job.next);
        *s = s->with(job.reference);
        job.targets = s->frames;
    }
    auto shadows = carry::learnShadows(job.reference, job.targets, render::originalPixels,
                                       stepReport(common, "shadows"));
    if (!shadows) return tl::unexpected(shadows.error());
    job.shadows = std::move(*shadows);
    return job;
}

/// The chart beside what the frames show, as it will be carried.
Result<carry::DustChart> compared(carry::DustChart known, const CarryOptions& o,
                                  const std::vector<series::FramePtr>& frames,
                                  const Common& common) {
    const auto small = render::chartPixels(carry::asReference(known));
    auto now = carry::broughtUpToDate(std::move(known), frames, small, render::originalPixels,
                                      stepReport(common, "chart"));
    if (!now) {
        now.error().file = o.chart;
        return tl::unexpected(now.error());
    }
    fmt::print(stderr, "{}: {}\n", o.chart,
               now->match ? carry::words(*now->match)
                          : "these frames do not tell what changed; carried as it is");
    return std::move(now->chart);
}

Result<Job> jobFromChart(const CarryOptions& o, const Common& common, std::vector<Error>& faults) {
    Job job;
    const auto files = files::pictureFiles(std::vector<fs::path>(o.files.begin(), o.files.end()));
    job.targets = series::makeSeries(files, "", faults).frames;
    auto chart = carry::loadChart(o.chart);
    if (chart) takeAsCut(job.targets, carry::asReference(*chart), o, faults);
    if (chart && o.compare && !job.targets.empty())
        chart = compared(std::move(*chart), o, job.targets, common);
    if (!chart) return tl::unexpected(chart.error());
    job.reference = carry::asReference(*chart);
    if (!o.sameSource) job.shadows = carry::shadowsOf(*chart);
    job.next = job.reference.mends.size() + 1;
    return job;
}

void run(const CarryOptions& o, Common& common) {
    setThreads(common.threads);
    std::vector<Error> faults;
    auto job = o.chart.empty() ? jobFromSeries(o, common, faults) : jobFromChart(o, common, faults);
    for (const auto& f : faults) complain(common, f);
    if (!job) return complain(common, job.error());
    if (auto ok = makeFolder(o.out); !ok) return complain(common, ok.error());
    std::vector<BatchFrame> frames;
    for (const auto& target : job->targets)
        frames.push_back(
            {target->file, target->companion, targetsOf(*target, o),
             [&, target](bool again) { return carryOne(*job, *target, o, o.replace || again); }});
    runBatch(common, frames);
}

}  // namespace

void addCarry(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand(
        "carry", "carry one frame's mends, or a dust chart, to other frames and write them");
    static CarryOptions o;
    auto* from = c->add_option("--from", o.from, "series folder, or a folder of pictures");
    auto* reference =
        c->add_option("--reference", o.reference,
                      "frame whose mends are carried; found and mended now if it has none");
    auto* chart = c->add_option("--chart", o.chart, "dust chart to carry instead");
    c->add_option("FRAME", o.files, "with --chart: pictures or folders");
    c->add_flag("--compare", o.compare,
                "look first what the frames show of the chart's dust: what is gone stays out, what "
                "moved or came is carried too")
        ->needs(chart);
    c->add_option("-o", o.out, "folder to write into")->required();
    c->add_flag("--same-source", o.sameSource, "keep each mend's own source in every frame");
    c->add_flag("--heal", o.heal, "heal sensor shadows, instead of dividing them out");
    c->add_option("--corner", o.corner,
                  "LEFT TOP: frames of another size were cut out of the sensor's picture there, px")
        ->expected(2)
        ->allow_extra_args(false);
    c->add_option(
         "--turned", o.turned,
         "frames were turned for good by so many degrees, clockwise; --corner counts on the "
         "turned picture")
        ->check(CLI::IsMember({90, 180, 270}));
    c->add_option(
         "--format", o.format,
         "tiff8, tiff16, png8, png16 or jpeg (default: that of each frame; raw becomes tiff16); "
         "dng divides shadows out of the raw samples of DNG frames and pairs")
        ->check(CLI::IsMember({"tiff8", "tiff16", "png8", "png16", "jpeg", "dng"}));
    c->add_flag("--replace", o.replace, "replace files that are there");
    c->add_flag("--raw", o.raw, "write the raw files of pairs too, as NAME-raw.tif");
    addResume(*c, common);
    addPlan(*c, o.plan, false);
    from->needs(reference)->excludes(chart);
    reference->needs(from);
    addCommon(*c, common);
    c->callback([&] {
        if (o.from.empty() == o.chart.empty())
            throw CLI::ValidationError(
                "carry", "give either --from with --reference, or --chart with frames");
        if (!o.chart.empty() && o.files.empty())
            throw CLI::ValidationError("carry", "--chart needs frames");
        run(o, common);
    });
}

}  // namespace gq::cli
