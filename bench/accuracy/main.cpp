// How well Find does against true maps: a table per origin.
#include <fmt/core.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <array>

#include "bench/accuracy/demo.h"
#include "core/find/survey.h"
#include "core/render/search.h"
#include "sim/infrared.h"
#include "tools/accuracy/photographs.h"
#include "tools/accuracy/score.h"

namespace {

using namespace gq;

struct Options {
    double megapixels = 3;
    std::string only, demo;
    bool trained = false, each = false, ceiling = false;
    std::vector<float> lines{0.5f};
    float grain = 0;
    int repeats = 1;
};

struct Origin {
    const char* title;
    find::Origin origin;
    sim::Medium medium;
    bool infrared = false;  ///< the scan has a fourth channel
};

constexpr Origin kOrigins[] = {{"sensor", find::Origin::Sensor, sim::Medium::Sensor},
                               {"negative", find::Origin::Negative, sim::Medium::Negative},
                               {"positive", find::Origin::Positive, sim::Medium::Positive},
                               {"infrared", find::Origin::Positive, sim::Medium::Positive, true},
                               {"print", find::Origin::Print, sim::Medium::Print}};

struct Row {
    accuracy::Score sum, clean;
    double f1 = 0, worst = 1;
    std::string worstName;
    double worstClean = 0;
    int pictures = 0;

    void worn(const accuracy::Score& s, const std::string& name) {
        sum.add(s);
        f1 += s.f1();
        ++pictures;
        if (s.f1() < worst) worst = s.f1(), worstName = name;
    }
    void unworn(const accuracy::Score& s) {
        clean.add(s);
        worstClean = std::max(worstClean, s.wrongPerMegapixel());
    }
};

void print(const char* title, float line, const Row& r) {
    const std::string lines =
        r.sum.askedLine > 0 ? fmt::format("{:.2f}", r.sum.lineShare()) : "none";
    fmt::print("| {} | {:.2f} | {:.3f} | {:.2f} {} | {:.3f} | {:.3f} | {} | {:.2f} | {:.1f} |",
               title, line, r.f1 / std::max(1, r.pictures), r.worst, r.worstName, r.sum.recall(),
               r.sum.precision(), lines, r.clean.wrongPerMegapixel(), r.worstClean);
    for (const auto& [kind, c] : r.sum.kinds)
        fmt::print(" {} {}/{}", sim::word(kind), c.found, c.asked);
    fmt::print(" |\n");
    std::fflush(stdout);
}

/// Everything Find would judge, as if it were all sure.
Result<std::vector<find::Finding>> candidates(const Picture& picture, const find::FindPlan& plan) {
    const auto surveyed = find::survey(picture.pixels, plan);
    if (!surveyed) return tl::unexpected(surveyed.error());
    std::vector<find::Finding> out;
    for (const auto& s : *surveyed)
        for (const auto& region : s.regions) {
            find::Finding f;
            f.region = find::fullSize(region, s.level, picture.size());
            f.confidence = 1;
            if (!f.region.empty()) out.push_back(std::move(f));
        }
    return out;
}

Result<std::vector<find::Finding>> searched(const sim::Worn& worn, const Origin& origin) {
    files::LoadedPicture scan;
    scan.picture = {worn.worn, 8};
    if (origin.infrared) scan.extra = sim::infraredOf(worn, sim::Stock::Colour, 1);
    auto out = render::search(scan, {}, {.origin = origin.origin});
    if (!out) return tl::unexpected(out.error());
    for (const auto& note : out->notes) fmt::print("  {}\n", note);
    render::takeScratches(*out);
    return std::move(out->findings);
}

Status measure(const Origin& origin, const Options& o) {
    std::vector<Row> rows(o.lines.size());
    int index = 0;
    for (const auto& p : accuracy::photographs()) {
        if (p.aside == o.trained) continue;
        const auto picture = accuracy::load(p, o.megapixels);
        if (!picture) return tl::unexpected(picture.error());
        for (int k = 0; k < 3 * o.repeats; ++k) {
            const float amount = std::array{1.0f, 0.5f, 0.0f}[size_t(k % 3)];
            const sim::Worn worn =
                sim::wear(picture->pixels, {.medium = origin.medium,
                                            .seed = 90000u + std::uint32_t(index++),
                                            .amount = amount,
                                            .grain = o.grain});
            const auto found = o.ceiling ? candidates({worn.worn, 8}, {.origin = origin.origin})
                                         : searched(worn, origin);
            if (!found) return tl::unexpected(found.error());
            for (size_t i = 0; i < rows.size(); ++i) {
                const auto s = accuracy::score(*found, o.lines[i], worn);
                if (amount > 0)
                    rows[i].worn(s, p.name);
                else
                    rows[i].unworn(s);
                if (o.each)
                    fmt::print(
                        "  {} {} amount {}: F1 {:.3f} recall {:.3f} precision {:.3f} false/MP "
                        "{:.2f}\n",
                        origin.title, p.name, amount, s.f1(), s.recall(), s.precision(),
                        s.wrongPerMegapixel());
            }
        }
    }
    for (size_t i = 0; i < rows.size(); ++i) print(origin.title, o.lines[i], rows[i]);
    return {};
}

struct Series {
    const char* name;
    find::Origin origin;
};

constexpr Series kSeries[] = {{"cloud-watch", find::Origin::Sensor},
                              {"roll-7", find::Origin::Negative},
                              {"keepers-album", find::Origin::Print}};

Status measureDemo(const Options& o) {
    for (const auto& series : kSeries) {
        const auto frames = accuracy::searchDemo(o.demo, series.name, series.origin);
        if (!frames) return tl::unexpected(frames.error());
        Row row;
        for (const auto& f : *frames) {
            row.worn(f.worn, f.name);
            row.unworn(f.clean);
            if (o.each)
                fmt::print("  {}: recall {:.3f}, {} of {} findings false, {} on the clean one\n",
                           f.name, f.worn.recall(), f.worn.wrong, f.worn.findings, f.clean.wrong);
        }
        print(series.name, 0.5f, row);
    }
    return {};
}

int report(const Status& done) {
    if (!done) fmt::print(stderr, "gqaccuracy: {}\n", done.error().message());
    return done ? 0 : 1;
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{
        "gqaccuracy: Find against true maps, on packaged photographs kept out of training"};
    Options o;
    app.add_option("--megapixels", o.megapixels, "photographs are reduced to this");
    app.add_option("--only", o.only, "one of sensor, negative, positive, infrared, print");
    app.add_option("--lines", o.lines, "confidences to draw the line at");
    app.add_option("--demo", o.demo, "folder of the rendered demo: its three series too");
    app.add_option("--grain", o.grain, "grain laid over clean and worn, 0..1");
    app.add_option("--repeats", o.repeats, "how often each picture is worn, by other seeds");
    app.add_flag("--trained", o.trained, "the photographs it was trained on instead");
    app.add_flag("--each", o.each, "a line per picture");
    app.add_flag("--ceiling", o.ceiling, "what there is to judge, as if all of it were sure");
    CLI11_PARSE(app, argc, argv);
    fmt::print(
        "| origin | line | mean F1 | worst | recall | precision | of lines | false/MP unworn | "
        "worst | by kind |\n|---|---|---|---|---|---|---|---|---|---|\n");
    for (const auto& origin : kOrigins) {
        if (!o.only.empty() && o.only != origin.title) continue;
        if (const auto done = measure(origin, o); !done) return report(done);
    }
    return o.demo.empty() ? 0 : report(measureDemo(o));
}
