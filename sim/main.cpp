// The simulated camera and scanner as a program.
#include <fmt/core.h>

#include <CLI/CLI.hpp>

#include "core/pixels/parallel.h"
#include "sim/cloud_watch.h"
#include "sim/keepers_album.h"
#include "sim/roll_seven.h"
#include "sim/wear_files.h"

namespace {

using namespace gq;

struct DemoOptions {
    std::string folder;
    std::string only;
    bool progress = false;
    sim::ShootSettings settings;
};

struct WearOptions {
    std::vector<std::string> pictures;
    std::string folder, medium = "sensor";
    bool replace = false;
    sim::WearPlan plan;
};

Status draw(const DemoOptions& o) {
    const auto part = [&](double from, double to) {
        return [&, from, to](double share) {
            if (!o.progress) return;
            const double all = from + (to - from) * share;
            fmt::print(stderr, "\rDrawing the demo series: {:3.0f} %{}", all * 100,
                       all >= 1 ? "\n" : "");
        };
    };
    const auto wants = [&](const char* name) { return o.only.empty() || o.only == name; };
    const int width = o.settings.sensorWidth * 9 / 20;
    if (wants("cloud-watch"))
        if (auto done = sim::shootCloudWatch(o.folder, o.settings, part(0, 0.8)); !done)
            return done;
    if (wants("roll-7"))
        if (auto done = sim::scanRollSeven(o.folder, width, o.settings.seed, part(0.8, 0.93));
            !done)
            return done;
    if (wants("keepers-album"))
        return sim::scanKeepersAlbum(o.folder, width, o.settings.seed, part(0.93, 1));
    return {};
}

Status wearAll(WearOptions o) {
    o.plan.medium = *sim::mediumFromWord(o.medium);
    for (const auto& picture : o.pictures) {
        if (auto done = sim::wearFile(picture, o.folder, o.plan, o.replace); !done) return done;
        ++o.plan.seed;
    }
    return {};
}

CLI::App* addDemo(CLI::App& app, DemoOptions& o) {
    auto* demo = app.add_subcommand(
        "demo", "write the demo series with their true maps into a folder; a finished one is kept");
    demo->add_option("DIR", o.folder, "folder to write into")->required();
    demo->add_option("--frames", o.settings.frames, "how many frames of \"Cloud watch\"")
        ->check(CLI::Range(1, 1000));
    demo->add_option("--width", o.settings.sensorWidth, "sensor width in pixels")
        ->check(CLI::Range(300, 12000));
    demo->add_option("--seed", o.settings.seed,
                     "another seed gives another camera and other clouds");
    demo->add_flag("--raw,!--no-raw", o.settings.raw, "write DNG beside JPEG (default)");
    demo->add_option("--only", o.only, "one series: cloud-watch, roll-7 or keepers-album")
        ->check(CLI::IsMember({"cloud-watch", "roll-7", "keepers-album"}));
    demo->add_flag("--progress", o.progress, "say how far it is");
    return demo;
}

CLI::App* addWear(CLI::App& app, WearOptions& o) {
    auto* wear = app.add_subcommand("wear", "wear pictures and write them with their true maps");
    wear->add_option("PICTURE", o.pictures, "pictures to wear")->required();
    wear->add_option("-o", o.folder, "folder to write into")->required();
    wear->add_option("--medium", o.medium, "sensor, negative, positive or print")
        ->check(CLI::IsMember({"sensor", "negative", "positive", "print"}));
    wear->add_option("--seed", o.plan.seed, "of the first picture; the next one counts on");
    wear->add_option("--amount", o.plan.amount, "how worn, 0..5")->check(CLI::Range(0.0, 5.0));
    wear->add_option("--grain", o.plan.grain, "deviation of grain, 0..1")
        ->check(CLI::Range(0.0, 1.0));
    wear->add_flag("--harm", o.plan.harm, "prints: creases, foxing, stains, losses; sensors: haze");
    wear->add_flag("--replace", o.replace, "overwrite what is there");
    return wear;
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"gqsim: the simulated camera and scanner, and wear for any picture"};
    app.require_subcommand(1);
    int threads = 0;
    app.add_option("-j", threads, "threads, 0 = all cores");
    DemoOptions demo;
    WearOptions wear;
    const auto* asksDemo = addDemo(app, demo);
    addWear(app, wear);
    CLI11_PARSE(app, argc, argv);
    setThreads(threads);
    const Status done = asksDemo->parsed() ? draw(demo) : wearAll(wear);
    if (!done) fmt::print(stderr, "gqsim: {}\n", done.error().message());
    return done ? 0 : 1;
}
