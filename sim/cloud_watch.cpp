#include "sim/cloud_watch.h"

#include <fmt/core.h>

#include <array>
#include <atomic>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/files/safe_write.h"
#include "core/pixels/region.h"
#include "sim/camera_dust.h"
#include "sim/dng_writer.h"
#include "sim/photo.h"
#include "sim/scene.h"
#include "sim/shot_files.h"

namespace gq::sim {
namespace fs = std::filesystem;
namespace {

constexpr const char* kMake = "Sandpiper";
constexpr const char* kModel = "Tideline 12";
constexpr int kRevision = 3;  // raise when a change of the renderer alters the pictures

/// One frame of the plan: framing, light, lens.
struct Shot {
    float focal;  ///< mm for a 36 mm wide sensor
    float yaw, tilt, eastward, sunAzimuth, sunHeight, cover, haze, warmth, exposure;
    double aperture;
    Orientation orientation;
};

constexpr auto kUp = Orientation::Upright, kCw = Orientation::Turn90, kCcw = Orientation::Turn270;

constexpr std::array<Shot, 12> kShots{{
    {35, 0.22f, 0.16f, 0, -0.9f, 0.80f, -0.35f, 0.9f, 0.0f, 1.02f, 16, kUp},
    {28, 0.30f, 0.06f, 4, -0.7f, 0.70f, 0.05f, 1.0f, 0.1f, 0.95f, 11, kUp},
    {50, 0.48f, 0.04f, 0, -1.2f, 0.55f, 0.15f, 1.2f, 0.2f, 0.92f, 11, kUp},
    {35, 0.10f, 0.20f, -3, -0.5f, 0.65f, 0.25f, 1.0f, 0.1f, 0.98f, 16, kUp},
    {28, 0.45f, 0.12f, 2, 1.2f, 0.45f, 0.00f, 1.1f, 0.4f, 0.95f, 8, kUp},
    {35, 0.42f, 0.10f, 0, -1.0f, 0.75f, -0.10f, 0.9f, 0.0f, 1.00f, 11, kCw},
    {50, 0.20f, 0.13f, 5, -0.8f, 0.60f, 0.45f, 1.3f, 0.2f, 0.90f, 16, kUp},
    {24, 0.35f, 0.18f, -2, -1.1f, 0.80f, -0.20f, 0.8f, 0.0f, 1.00f, 11, kUp},
    {35, 0.50f, 0.06f, 0, -0.6f, 0.50f, 0.10f, 1.0f, 0.3f, 0.95f, 11, kCcw},
    {70, 0.50f, 0.03f, 3, -0.9f, 0.65f, 0.20f, 1.1f, 0.1f, 0.96f, 8, kUp},
    {28, 0.15f, 0.25f, 0, -0.4f, 0.35f, 0.05f, 1.2f, 0.8f, 0.88f, 16, kUp},
    {28, 0.38f, 0.14f, 1, -1.3f, 0.30f, -0.15f, 1.1f, 1.0f, 0.84f, 11, kCw},
}};

/// The twelve frames of the demo, and after them ever new ones: the camera looks a little further
/// to the side, and is held in all eight ways.
Shot shotOf(int i) {
    Shot s = kShots[size_t(i) % kShots.size()];
    const int round = i / int(kShots.size());
    if (round == 0) return s;
    s.yaw += 0.9f * std::fmod(0.618f * float(round), 1.0f) - 0.45f;
    s.tilt += 0.12f * std::fmod(0.755f * float(round), 1.0f) - 0.06f;
    s.orientation = Orientation(1 + i % 8);
    return s;
}

View viewOf(const Shot& s, const Size& sensor, std::uint32_t seed) {
    View v;
    v.size = swapsSides(s.orientation) ? Size(sensor.height, sensor.width) : sensor;
    v.focal = s.focal / 36.0f * float(sensor.width);
    v.yaw = s.yaw;
    v.tilt = s.tilt;
    v.eastward = s.eastward;
    v.sunAzimuth = s.sunAzimuth;
    v.sunHeight = s.sunHeight;
    v.cover = s.cover;
    v.haze = s.haze;
    v.warmth = s.warmth;
    v.exposure = s.exposure;
    v.seed = seed;
    return v;
}

/// The worn picture: the clean one with the dusty places worked out again.
Image8 worn(const Image8& clean, const ImageF& light, const ImageF& gain, const Sensor& sensor) {
    Image8 out = clean.clone();
    Mask dusty = gain < 1.0f;
    cv::dilate(dusty, dusty, cv::Mat::ones(7, 7, CV_8U));
    for (const auto& piece : pieces(dusty)) develop(light, gain, sensor, piece.box, out);
    return out;
}

struct Folders {
    fs::path frames, truth;
};

Status shootFrame(int i, const Folders& to, const std::vector<Grain>& dust, const Size& size,
                  const ShootSettings& s) {
    const Shot shot = shotOf(i);
    const std::uint32_t seed = s.seed * 1000u + std::uint32_t(i);
    const std::string name = fmt::format("CW-{:03}", i + 1);
    const ImageF light = turned(renderScene(viewOf(shot, size, seed)), inverse(shot.orientation));
    const ImageF gain = gainMap(dust, size, shot.aperture);
    const Sensor sensor{.seed = seed};
    Image8 clean(size, CV_8UC3);
    develop(light, {}, sensor, Rect({0, 0}, size), clean);
    files::CameraTags tags{
        kMake,
        kModel,
        fmt::format("2026:05:{:02} {:02}:{:02}:00", 14 + i / 12, 9 + i % 12, (i * 17) % 60),
        shot.aperture,
        1.0 / 250,
        double(shot.focal),
        100,
        shot.orientation};
    if (auto ok = writeJpeg(to.frames / (name + ".jpg"), widen(worn(clean, light, gain, sensor)),
                            tags, s.jpegQuality);
        !ok)
        return ok;
    if (auto ok = writeJpeg(to.truth / (name + ".clean.jpg"), widen(clean), tags, s.jpegQuality);
        !ok)
        return ok;
    if (auto ok = writeGain(to.truth / (name + ".gain.png"), gain); !ok) return ok;
    if (!s.raw) return {};
    const fs::path dng = to.frames / (name + ".dng");
    auto ok = files::writeSafely(dng, true, [&](const std::string& temporary) {
        return writeDng(temporary, mosaic(light, gain, sensor), kMake, kModel, shot.orientation,
                        {.lossless = true});
    });
    return ok ? files::writeCameraTags(dng, tags) : ok;
}

}  // namespace

Status shootCloudWatch(const fs::path& folder, const ShootSettings& s, const Progress& progress,
                       std::stop_token stop) {
    const Folders to{folder / "cloud-watch", folder / "truth" / "cloud-watch"};
    const fs::path stampFile = to.truth / "stamp";
    const std::string stamp = fmt::format("{} {} {} {} {} {}", kRevision, s.frames, s.sensorWidth,
                                          s.seed, s.raw, s.jpegQuality);
    if (const auto old = files::readText(stampFile); old && *old == stamp) return {};
    std::error_code code;
    fs::create_directories(to.frames, code);
    fs::create_directories(to.truth, code);
    const Size size(s.sensorWidth & ~1, (s.sensorWidth * 2 / 3 + 1) & ~1);
    const auto dust = cameraDust(size, s.seed);
    std::vector<Status> done(size_t(s.frames));
    std::atomic<int> count{0};
    const bool all = forEach(
        s.frames,
        [&](int i) {
            done[size_t(i)] = shootFrame(i, to, dust, size, s);
            if (progress) progress(double(++count) / s.frames);
        },
        stop);
    if (!all) return cancelled();
    for (auto& one : done)
        if (!one) return one;
    if (auto ok = files::writeTextSafely(to.truth / "dust.json", dustJson(dust, size)); !ok)
        return ok;
    return files::writeTextSafely(stampFile, stamp);
}

}  // namespace gq::sim
