#include <fmt/core.h>

#include "cli/common.h"
#include "core/carry/chart_file.h"
#include "core/carry/chart_match.h"

namespace gq::cli {
namespace fs = std::filesystem;

void addChart(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("chart", "work out a camera's dust from a series of frames");
    static std::vector<std::string> files;
    static std::string out, compare;
    c->add_option("FRAME", files, "pictures or folders, three or more of one camera")->required();
    c->add_option("-o", out, "chart to write, - for standard output")->required();
    c->add_option("--compare", compare,
                  "an older chart of the camera: tells what moved, went and came");
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        carry::Consensus consensus;
        const auto look = [&](const std::vector<std::string>& names, auto use) {
            forFrames(common, names, [&](const fs::path& file) -> Status {
                const auto frame = series::makeFrame(file, "f");
                if (!frame) return tl::unexpected(frame.error());
                const auto loaded = files::readPicture(file);
                if (!loaded) return tl::unexpected(loaded.error());
                return use(loaded->picture.pixels, *frame);
            });
        };
        std::vector<std::string> taken;
        look(files, [&](const Image& pixels, const series::Frame& frame) {
            auto added = consensus.add(pixels, frame);
            if (added) taken.push_back(frame.file.string());
            return added;
        });
        const auto chart = consensus.chart();
        if (!chart) return complain(common, chart.error());
        carry::ShadowSeries shadows(carry::placesOf(*chart));
        look(taken, [&](const Image& pixels, const series::Frame& frame) -> Status {
            shadows.add(pixels, carry::laidOn(chart->sensor, frame));
            return {};
        });
        auto solved = shadows.solved();
        if (!solved) return complain(common, solved.error());
        const auto whole = carry::withShadows(*chart, std::move(*solved));
        if (!compare.empty()) {
            const auto known = carry::loadChart(compare);
            if (!known) return complain(common, known.error());
            const auto match = carry::matched(*known, whole);
            if (!match) return complain(common, match.error());
            fmt::print(stderr, "{}: {}\n", compare, carry::words(*match));
        }
        if (auto ok = put(out, carry::chartText(whole)); !ok) complain(common, ok.error());
    });
}

}  // namespace gq::cli
