#include "bench/carry/photograph_series.h"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "sim/camera_dust.h"
#include "sim/shot_files.h"
#include "tools/accuracy/photographs.h"

namespace gq::bench {
namespace fs = std::filesystem;
namespace {

const Size kSensor(1920, 1200);
constexpr int kQuality = 93;
constexpr std::array kOpenings{7.1, 8.0, 9.0, 11.0, 13.0, 14.0};

/// The middle of a photograph, brought to the sensor's size; empty if it is grey or too small.
Image framed(const Image& all) {
    if (all.channels() != 3) return {};
    const double scale =
        std::max(double(kSensor.width) / all.cols, double(kSensor.height) / all.rows);
    if (scale > 1) return {};
    Image fitted;
    cv::resize(all, fitted, {}, scale, scale, cv::INTER_AREA);
    const Rect middle(Point((fitted.cols - kSensor.width) / 2, (fitted.rows - kSensor.height) / 2),
                      kSensor);
    return fitted(middle & Rect({0, 0}, fitted.size())).clone();
}

Image dimmed(const Image& clean, const ImageF& gain) {
    Image out = clean.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x)
            for (int c = 0; c < 3; ++c) {
                auto& v = out.ptr<ushort>(y)[3 * x + c];
                v = fromLinear(toLinear(v) * gain.at<float>(y, x));
            }
    return out;
}

Status writeFrame(const fs::path& folder, const fs::path& truth, const std::string& name,
                  const Image& clean, const ImageF& gain, double aperture) {
    files::CameraTags tags;
    tags.make = "Sandpiper";
    tags.model = "Tideline 2";
    tags.taken = "2026:06:01 10:00:00";
    tags.aperture = aperture;
    if (auto ok = sim::writeJpeg(folder / (name + ".jpg"), dimmed(clean, gain), tags, kQuality);
        !ok)
        return ok;
    if (auto ok = sim::writeJpeg(truth / (name + ".clean.jpg"), clean, tags, kQuality); !ok)
        return ok;
    return sim::writeGain(truth / (name + ".gain.png"), gain);
}

}  // namespace

Status shootPhotographs(const fs::path& folder, const fs::path& truth, int frames,
                        std::uint32_t seed) {
    auto all = accuracy::photographs();
    std::erase_if(all, [](const auto& p) { return p.filmOnly; });
    std::vector<std::pair<std::uint32_t, const accuracy::Photograph*>> order;
    for (size_t i = 0; i < all.size(); ++i) order.emplace_back(hash32(seed, int(i), 0), &all[i]);
    std::sort(order.begin(), order.end());
    std::error_code code;
    fs::create_directories(folder, code);
    fs::create_directories(truth, code);
    const auto dust = sim::cameraDust(kSensor, seed);
    int written = 0;
    for (const auto& [_, photograph] : order) {
        if (written == frames) break;
        const auto loaded = accuracy::load(*photograph, 1e9);
        if (!loaded) return tl::unexpected(loaded.error());
        const Image clean = framed(loaded->pixels);
        if (clean.empty()) continue;
        const double aperture = kOpenings[hash32(seed, written, 1) % kOpenings.size()];
        auto ok = writeFrame(folder, truth, fmt::format("P-{:03}", written + 1), clean,
                             sim::gainMap(dust, kSensor, aperture), aperture);
        if (!ok) return ok;
        ++written;
    }
    if (written < frames)
        return fail(Error::Kind::NotFound, "too few photographs are installed", {},
                    "Install the packages listed in tools/accuracy/photographs.h.");
    return {};
}

}  // namespace gq::bench
