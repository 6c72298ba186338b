// Chart + carry + export of a series with true pictures: what it gains in the dust, what it harms
// elsewhere, and its time beside plain decoding and encoding of the same files.
#include <fmt/core.h>

#include <CLI/CLI.hpp>
#include <chrono>
#include <opencv2/imgproc.hpp>

#include "bench/carry/photograph_series.h"
#include "core/carry/chart.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_writer.h"
#include "core/pixels/memory.h"
#include "core/render/compose.h"
#include "core/render/export.h"
#include "sim/cloud_watch.h"

namespace {

using namespace gq;
namespace fs = std::filesystem;

struct Options {
    std::string folder;  ///< with cloud-watch/ and truth/cloud-watch/; made if it is not there
    int frames = 300, width = 900;
    int photographs = 0;  ///< so many series of packaged photographs instead
    bool each = false, heal = false;
};

/// Wall time of a body, seconds.
template <class Body>
double timed(Body body) {
    const auto start = std::chrono::steady_clock::now();
    body();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double psnr(const Image& a, const Image& b, const Mask& where) {
    cv::Mat difference;
    cv::absdiff(a, b, difference);
    difference.convertTo(difference, CV_64F);
    const cv::Scalar mean = cv::mean(difference.mul(difference), where);
    return 10 * std::log10(65535.0 * 65535.0 / std::max((mean[0] + mean[1] + mean[2]) / 3, 1e-6));
}

struct Score {
    double before = 0, after = 0;
    double mendedGain = 0;  ///< dB, where dust was mended
    int mendedFrames = 0;   ///< that have such places
    int harmed = 0;         ///< pixels changed outside all mends
    int mended = 0, hidden = 0, looks = 0;
};

Result<Score> scoreOf(const series::Frame& frame, const Image& worn, const Image& made,
                      const fs::path& truth) {
    const auto clean = files::readPicture(truth / (frame.name() + ".clean.jpg")),
               gain = files::readPicture(truth / (frame.name() + ".gain.png"));
    Score out;
    if (!clean) return tl::unexpected(clean.error());
    if (!gain) return tl::unexpected(gain.error());
    const Mask dust = gain->picture.pixels < 0.996 * 65535;
    out.before = psnr(worn, clean->picture.pixels, dust);
    out.after = psnr(made, clean->picture.pixels, dust);
    Mask laid(worn.size(), CV_8U, cv::Scalar(0)), changed;
    for (const auto& m : frame.mends)
        if (!m.muted) paint(laid, mend::footprint(m.mend, worn.size()));
    const Mask mended = dust & laid;
    if (cv::countNonZero(mended) > 0) {
        out.mendedFrames = 1;
        out.mendedGain =
            psnr(made, clean->picture.pixels, mended) - psnr(worn, clean->picture.pixels, mended);
    }
    cv::Mat difference;
    cv::absdiff(worn, made, difference);
    cv::transform(difference, difference, cv::Matx13f(1, 1, 1));
    out.harmed = cv::countNonZero((difference > 0) & (laid == 0));
    for (const auto& c : frame.carried) {
        out.mended += c.verdict == series::Verdict::Mended;
        out.hidden += c.verdict == series::Verdict::NotVisible;
        out.looks += c.verdict == series::Verdict::NeedsLook;
    }
    return out;
}

Result<carry::DustChart> chartOf(const std::vector<series::FramePtr>& frames) {
    auto chart = carry::chartOf(*frames.front(), frames, render::chartPixels(*frames.front()));
    if (!chart) return chart;
    return carry::withShadows(std::move(*chart), frames, render::originalPixels);
}

/// A series with its true pictures.
struct Shoot {
    std::string name;
    fs::path frames, truth;
};

Status measure(const Shoot& shoot, const Options& o) {
    std::vector<Error> faults;
    const auto series = series::makeSeries(files::pictureFiles({shoot.frames}), "bench", faults);
    const fs::path &truth = shoot.truth, out = shoot.frames.parent_path() / "out.jpg";
    const files::WriteOptions jpeg{.format = files::Format::Jpeg, .replace = true};
    Status failed;
    const double plain = timed([&] {
        for (const auto& f : series.frames) {
            const auto loaded = files::readPicture(f->file);
            if (!loaded) {
                failed = tl::unexpected(loaded.error());
                return;
            }
            if (auto ok = files::writePicture(out, *loaded, jpeg, f->file); !ok) failed = ok;
        }
    });
    Result<carry::DustChart> chart = tl::unexpected(Error{});
    const double charting = timed([&] { chart = chartOf(series.frames); });
    if (!chart) return tl::unexpected(chart.error());
    const auto reference = carry::asReference(*chart);
    const auto shadows = o.heal ? carry::Shadows{} : carry::shadowsOf(*chart);
    const auto carried = [&](const series::Frame& f, const Image& pixels, mend::PatchStore* made) {
        series::Id next = 1000;
        return carry::carryTo(pixels, reference, f, {}, 0.5f, next, shadows, {}, made);
    };
    const double carrying = timed([&] {
        inOrder(
            int(series.frames.size()),
            [&](int i) -> Status {
                const auto& f = *series.frames[size_t(i)];
                auto loaded = files::readPicture(f.file);
                if (!loaded) return tl::unexpected(loaded.error());
                mend::PatchStore made;
                const auto frame = carried(f, loaded->picture.pixels, &made);
                if (!frame) return tl::unexpected(frame.error());
                if (auto ok = render::mendInPlace(loaded->picture.pixels, *frame, 0.5f, {}, &made);
                    !ok)
                    return ok;
                return files::writePicture(out.string() + std::to_string(i % 2), *loaded, jpeg,
                                           f.file);
            },
            [&](int, const Status& ok) {
                if (!ok) failed = ok;
            });
    });
    if (!failed) return failed;
    std::vector<Score> scores;
    for (const auto& f : series.frames) {
        const auto worn = render::originalPixels(*f);
        if (!worn) return tl::unexpected(worn.error());
        const auto frame = carried(*f, *worn, nullptr);
        if (!frame) return tl::unexpected(frame.error());
        const auto made = render::composed(*worn, *frame, 0.5f);
        if (!made) return tl::unexpected(made.error());
        const auto scored = scoreOf(*frame, *worn, *made, truth);
        if (!scored) return tl::unexpected(scored.error());
        const Score& s = *scored;
        scores.push_back(s);
        if (o.each)
            fmt::print("  {} {:.1f} -> {:.1f} ({:+.1f}) dB, {} mended, {} not visible, {} look\n",
                       f->name(), s.before, s.after, s.after - s.before, s.mended, s.hidden,
                       s.looks);
    }
    Score sum;
    double least = 1e9;
    int worse = 0;
    std::string worst;
    for (size_t i = 0; i < scores.size(); ++i) {
        const auto& s = scores[i];
        sum.before += s.before;
        sum.after += s.after;
        sum.mendedGain += s.mendedGain;
        sum.mendedFrames += s.mendedFrames;
        sum.harmed += s.harmed;
        sum.mended += s.mended;
        sum.hidden += s.hidden;
        sum.looks += s.looks;
        worse += s.after < s.before;
        if (s.after - s.before < least)
            least = s.after - s.before, worst = series.frames[i]->name();
    }
    const auto n = double(scores.size());
    fmt::print(
        "| {} | {:.1f} -> {:.1f} | {:+.1f} | {:+.1f} | {:+.1f} {} | {} | {} | {} | {} | {} | "
        "{:.2f} ({:.2f} without the chart) |\n",
        shoot.name, sum.before / n, sum.after / n, (sum.after - sum.before) / n,
        sum.mendedGain / std::max(1, sum.mendedFrames), least, worst, worse, sum.harmed, sum.mended,
        sum.hidden, sum.looks, (charting + carrying) / plain, carrying / plain);
    return {};
}

Status run(const Options& o) {
    fmt::print(
        "| frames | in the dust, dB | mean gain | where mended | least | worse | px changed "
        "outside | mended | not visible | look | time / decode + encode |\n"
        "|---|---|---|---|---|---|---|---|---|---|---|\n");
    const fs::path own = fs::temp_directory_path() / "gentle-quill-bench-series";
    for (int i = 1; i <= o.photographs; ++i) {
        const fs::path folder = own / fmt::format("photographs-{}", i);
        const Shoot shoot{fmt::format("12 photographs, {}", i), folder / "frames",
                          folder / "truth"};
        if (auto ok = bench::shootPhotographs(shoot.frames, shoot.truth, 12, std::uint32_t(i)); !ok)
            return ok;
        if (auto ok = measure(shoot, o); !ok) return ok;
    }
    if (o.photographs > 0) return {};
    const fs::path folder = o.folder.empty() ? own : fs::path(o.folder);
    if (auto ok = sim::shootCloudWatch(
            folder, {.frames = o.frames, .sensorWidth = o.width, .raw = !o.folder.empty()});
        !ok)
        return ok;
    return measure({fmt::format("{} of {} px", o.frames, o.width), folder / "cloud-watch",
                    folder / "truth" / "cloud-watch"},
                   o);
}

}  // namespace

int main(int argc, char** argv) {
    keepFreedMemory();
    CLI::App app{"gqcarry: chart, carry and export of a series with true pictures"};
    Options o;
    app.add_option("--folder", o.folder,
                   "a rendered demo folder instead of a series made for this");
    app.add_option("--frames", o.frames, "frames of the series")->capture_default_str();
    app.add_option("--width", o.width, "of its sensor, px")->capture_default_str();
    app.add_option("--photographs", o.photographs,
                   "so many series of 12 packaged photographs each instead");
    app.add_flag("--each", o.each, "a line per frame");
    app.add_flag("--heal", o.heal, "heal shadows instead of dividing them out");
    CLI11_PARSE(app, argc, argv);
    const auto done = run(o);
    if (!done) fmt::print(stderr, "gqcarry: {}\n", done.error().message());
    return done ? 0 : 1;
}
