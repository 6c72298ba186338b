#include "bench/ratio.h"

#include <fmt/core.h>

#include <array>
#include <cstdlib>
#include <map>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/files/picture_writer.h"
#include "core/pixels/memory.h"

namespace gq::bench {
namespace fs = std::filesystem;
namespace {

class Times : public benchmark::ConsoleReporter {
  public:
    void ReportRuns(const std::vector<Run>& runs) override {
        ConsoleReporter::ReportRuns(runs);
        for (const auto& r : runs) {
            if (r.run_type == Run::RT_Aggregate) continue;
            const std::string name = r.benchmark_name();
            auto& best = m_best[name.substr(0, name.find('/'))];
            if (best == 0 || r.GetAdjustedRealTime() < best) best = r.GetAdjustedRealTime();
        }
    }
    [[nodiscard]] double of(const std::string& name) const {
        return m_best.count(name) ? m_best.at(name) : 0;
    }

  private:
    std::map<std::string, double> m_best;
};

}  // namespace

int runRatio(int argc, char** argv, const std::string& title, const std::string& ours,
             const std::string& stock, double limit) {
    if (!std::getenv("GQ_DEMO")) {
        fmt::print(stderr, "Set GQ_DEMO to the rendered demo folder (./dev bench does).\n");
        return 1;
    }
    keepFreedMemory();  // as the programs do
    // Taken in turn, several times: the machine's own pace changes within seconds.
    std::vector<char*> all{argv[0]};
    std::array<std::string, 2> usual{"--benchmark_repetitions=4",
                                     "--benchmark_enable_random_interleaving=true"};
    for (auto& option : usual) all.push_back(option.data());
    all.insert(all.end(), argv + 1, argv + argc);
    argc = int(all.size());
    benchmark::Initialize(&argc, all.data());
    Times times;
    benchmark::RunSpecifiedBenchmarks(&times);
    if (times.of(ours) <= 0 || times.of(stock) <= 0) return 1;
    fmt::print("{}: ours / stock = {:.2f} (aim: at most {})\n", title,
               times.of(ours) / times.of(stock), limit);
    return 0;
}

fs::path demoFrame(int number) {
    return fs::path(std::getenv("GQ_DEMO")) / "cloud-watch" / fmt::format("CW-{:03}.jpg", number);
}

Image pixelsOf(const fs::path& file) {
    const auto loaded = files::readPicture(file);
    if (loaded) return loaded->picture.pixels;
    fmt::print(stderr, "{}\n", loaded.error().message());
    std::exit(1);
}

fs::path largeFrame() {
    const fs::path file = fs::temp_directory_path() / "gentle-quill-bench-24mp.jpg";
    if (fs::exists(file)) return file;
    files::LoadedPicture large;
    cv::resize(pixelsOf(demoFrame(1)), large.picture.pixels, {6000, 4000}, 0, 0, cv::INTER_CUBIC);
    if (const auto done = files::writePicture(
            file, large, {.format = files::Format::Jpeg, .jpegQuality = 93, .replace = true});
        !done) {
        fmt::print(stderr, "{}\n", done.error().message());
        std::exit(1);
    }
    return file;
}

}  // namespace gq::bench
