#include "cli/common.h"
#include "core/carry/chart_file.h"

namespace gq::cli {
namespace fs = std::filesystem;

void addChart(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("chart", "work out a camera's dust from a series of frames");
    static std::vector<std::string> files;
    static std::string out;
    c->add_option("FRAME", files, "pictures or folders, three or more of one camera")->required();
    c->add_option("-o", out, "chart to write, - for standard output")->required();
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        carry::Consensus consensus;
        forFrames(common, files, [&](const fs::path& file) -> Status {
            const auto frame = series::makeFrame(file, "f");
            if (!frame) return tl::unexpected(frame.error());
            const auto loaded = files::readPicture(file);
            if (!loaded) return tl::unexpected(loaded.error());
            return consensus.add(loaded->picture.pixels, *frame);
        });
        const auto chart = consensus.chart();
        if (!chart) return complain(common, chart.error());
        if (auto ok = put(out, carry::chartText(*chart)); !ok) complain(common, ok.error());
    });
}

}  // namespace gq::cli
