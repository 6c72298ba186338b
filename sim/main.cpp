// The simulated camera as a program.
#include <fmt/core.h>

#include <CLI/CLI.hpp>

#include "core/pixels/parallel.h"
#include "sim/cloud_watch.h"

int main(int argc, char** argv) {
    CLI::App app{"gqsim: draws the demo series as a dusty camera would have taken it"};
    app.require_subcommand(1);
    std::string folder;
    bool progress = false;
    int threads = 0;
    gq::sim::ShootSettings settings;
    auto* demo = app.add_subcommand(
        "demo", "write \"Cloud watch\" with its true maps into a folder; a finished one is kept");
    demo->add_option("DIR", folder, "folder to write into")->required();
    demo->add_option("--frames", settings.frames, "how many frames")->check(CLI::Range(1, 1000));
    demo->add_option("--width", settings.sensorWidth, "sensor width in pixels")
        ->check(CLI::Range(300, 12000));
    demo->add_option("--seed", settings.seed, "another seed gives another camera and other clouds");
    demo->add_flag("--raw,!--no-raw", settings.raw, "write DNG beside JPEG (default)");
    demo->add_option("-j", threads, "threads, 0 = all cores");
    demo->add_flag("--progress", progress, "say how far it is");
    CLI11_PARSE(app, argc, argv);
    gq::setThreads(threads);
    const auto report = [&](double share) {
        if (progress)
            fmt::print(stderr, "\rDrawing the demo series: {:3.0f} %{}", share * 100,
                       share >= 1 ? "\n" : "");
    };
    const auto done = gq::sim::shootCloudWatch(folder, settings, report);
    if (!done) fmt::print(stderr, "gqsim: {}\n", done.error().message());
    return done ? 0 : 1;
}
