#include "sim/roll_seven.h"

#include <fmt/core.h>

#include "core/files/picture_writer.h"
#include "sim/infrared.h"
#include "sim/instrument.h"
#include "sim/scene.h"
#include "sim/wear_files.h"
#include "sim/write_once.h"

namespace gq::sim {
namespace fs = std::filesystem;
namespace {

constexpr int kRevision = 2;  // raise when a change alters the pictures
constexpr int kFrames = 8;
constexpr int kWithoutInfrared = 4;

Stock stockOf(int frame) {
    return frame >= 5 ? Stock::Silver : Stock::Colour;
}

ImageF lightOf(int frame, const Size& size, std::uint32_t seed) {
    if (frame % 2 == 0) return renderInstrument(size, seed * 16 + std::uint32_t(frame) / 2);
    View v;
    v.size = size;
    v.focal = float(size.width) * 0.8f;
    v.yaw = 0.1f + 0.12f * float(frame);
    v.tilt = 0.10f;
    v.cover = 0.35f + 0.05f * float(frame);
    v.haze = 1.3f;
    v.sunHeight = 0.35f;
    v.exposure = 0.8f;
    v.seed = seed * 77 + std::uint32_t(frame);
    return renderScene(v);
}

/// Grit in the camera's gate drew these along the whole film.
void layTramlines(Worn& worn, const Size& size, std::uint32_t seed, int frame) {
    for (int i = 0; i < 2; ++i) {
        Dice dice(hash32(seed, i, 41));
        const float y = float(size.height) * (i == 0 ? 0.36f : 0.71f);
        Dice along(hash32(seed, i, 50 + frame));
        auto run = scratchRun({-20, y}, 0, float(size.width) + 60, dice.between(1.1f, 1.6f), along);
        for (auto& p : run) p.at.y = y + 0.7f * std::sin(p.at.x * 0.003f + float(frame));
        layScratch(worn, run, 0.02f, dice.between(0.35f, 0.5f));
    }
}

Status scanFrame(int i, const fs::path& frames, const fs::path& truth, int width,
                 std::uint32_t seed) {
    const Size size(width, width * 2 / 3);
    const Stock stock = stockOf(i);
    const Image clean =
        scanned(exposed(lightOf(i, size, seed), stock, seed + std::uint32_t(i)), stock, width / 40);
    Worn worn =
        wear(clean, {.medium = Medium::Positive, .seed = hash32(seed, i, 31), .amount = 0.7f});
    layTramlines(worn, clean.size(), seed, i);
    files::LoadedPicture scan;
    scan.picture = {worn.worn, 16};
    scan.pixelsPerMm = double(width) / 36;
    if (i != kWithoutInfrared) scan.extra = infraredOf(worn, stock, hash32(seed, i, 32));
    const std::string name = fmt::format("R7-{:02}", i + 1);
    const files::WriteOptions options{.format = files::Format::Tiff16, .replace = true};
    if (auto ok = files::writePicture(frames / (name + ".tif"), scan, options); !ok) return ok;
    scan.picture.pixels = clean;
    scan.extra.release();
    if (auto ok = files::writePicture(truth / (name + ".clean.tif"), scan, options); !ok) return ok;
    return writeMaps(truth / name, worn);
}

}  // namespace

Status scanRollSeven(const fs::path& folder, int width, std::uint32_t seed,
                     const Progress& progress, std::stop_token stop) {
    const fs::path frames = folder / "roll-7", truth = folder / "truth" / "roll-7";
    const std::string stamp = fmt::format("{} {} {}", kRevision, width, seed);
    return writeOnce(
        frames, truth, stamp, kFrames,
        [&](int i) { return scanFrame(i, frames, truth, width, seed); }, progress, stop);
}

}  // namespace gq::sim
