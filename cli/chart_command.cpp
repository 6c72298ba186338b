#include <fmt/core.h>

#include "cli/common.h"
#include "core/carry/chart_file.h"
#include "core/carry/chart_match.h"
#include "core/files/folder_scan.h"
#include "core/render/export.h"

namespace gq::cli {
namespace fs = std::filesystem;

void addChart(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand("chart", "work out a camera's dust from a series of frames");
    static std::vector<std::string> files;
    static std::string out, compare;
    c->add_option("FRAME", files, "pictures or folders, three or more of one camera")->required();
    c->add_option("-o", out, "chart to write, - for standard output")->required();
    static int most = 60;
    c->add_option("--frames", most, "look at so many of them, evenly picked; 0 = at all")
        ->check(CLI::NonNegativeNumber)
        ->capture_default_str();
    c->add_option("--compare", compare,
                  "an older chart of the camera: tells what moved, went and came, and keeps what "
                  "these frames do not tell of");
    addCommon(*c, common);
    c->callback([&] {
        setThreads(common.threads);
        std::optional<carry::DustChart> known;
        if (!compare.empty()) {
            auto loaded = carry::loadChart(compare);
            if (!loaded) return complain(common, loaded.error());
            known = std::move(*loaded);
        }
        std::vector<Error> faults;
        const auto s = series::makeSeries(
            files::pictureFiles(std::vector<fs::path>(files.begin(), files.end())), "", faults);
        for (const auto& f : faults) complain(common, f);
        if (s.frames.empty()) return;
        carry::Consensus consensus;
        std::vector<series::FramePtr> taken;
        const auto picked =
            carry::evenlyPicked(s.frames, most > 0 ? size_t(most) : s.frames.size());
        const auto source = render::chartPixels(*s.frames.front());
        inOrder(
            int(picked.size()),
            [&](int i) -> Result<carry::Consensus::Say> {
                const auto& frame = *picked[size_t(i)];
                const auto pixels = source(frame, {});
                if (!pixels) return tl::unexpected(pixels.error());
                return carry::Consensus::listen(*pixels, *s.frames.front(), frame);
            },
            [&](int i, const Result<carry::Consensus::Say>& say) {
                const auto& frame = picked[size_t(i)];
                if (say)
                    consensus.add(*say), taken.push_back(frame);
                else
                    complain(common, say.error());
                report(common, frame->file.string(), size_t(i) + 1, picked.size());
            });
        auto chart = consensus.chart(known ? &*known : nullptr);
        if (!chart) return complain(common, chart.error());
        if (known) {
            auto match = carry::matched(*known, *chart);
            if (!match) return complain(common, match.error());
            fmt::print(stderr, "{}: {}\n", compare, carry::words(*match));
            *chart = std::move(match->now);
        }
        const auto whole = carry::withShadows(*chart, taken, render::originalPixels,
                                              stepReport(common, "shadows"));
        if (!whole) return complain(common, whole.error());
        if (auto ok = put(out, carry::chartText(*whole)); !ok) complain(common, ok.error());
    });
}

}  // namespace gq::cli
