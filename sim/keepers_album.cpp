#include "sim/keepers_album.h"

#include <fmt/core.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/files/picture_writer.h"
#include "core/pixels/color.h"
#include "sim/instrument.h"
#include "sim/scene.h"
#include "sim/wear_files.h"
#include "sim/write_once.h"

namespace gq::sim {
namespace fs = std::filesystem;
namespace {

constexpr int kRevision = 1;  // raise when a change alters the pictures
constexpr int kPrints = 4;

ImageF lightOf(int print, const Size& size, std::uint32_t seed) {
    if (print == 2) return renderInstrument(size, seed * 4);
    View v;
    v.size = size;
    v.focal = float(size.width) * (0.7f + 0.25f * float(print));
    v.yaw = 0.35f + 0.1f * float(print);
    v.tilt = 0.05f;
    v.cover = 0.1f * float(print) - 0.1f;
    v.haze = 1.2f;
    v.seed = seed * 31 + std::uint32_t(print);
    return renderScene(v);
}

/// A faded print: blacks turned brown, whites yellowed, a paper margin with a ragged edge.
Image printed(const ImageF& light, int margin, std::uint32_t seed) {
    const Size size(light.cols + 2 * margin, light.rows + 2 * margin);
    Image out(size, CV_16UC3);
    for (int y = 0; y < size.height; ++y) {
        auto* o = out.ptr<cv::Vec<ushort, 3>>(y);
        for (int x = 0; x < size.width; ++x) {
            const auto fx = float(x), fy = float(y);
            const float fibre = 0.012f * fractalNoise(seed, fx * 0.2f, fy * 0.2f, 3) +
                                0.004f * hashNormal(seed, x, y, 2);
            const float ragged = 2.5f * fractalNoise(seed + 1, fx * 0.03f, fy * 0.03f, 3);
            const float in =
                float(std::min({x, y, size.width - 1 - x, size.height - 1 - y})) + ragged;
            cv::Vec3f v(0.90f, 0.875f, 0.81f);  // paper
            const Point at(x - margin, y - margin);
            if (Rect({0, 0}, light.size()).contains(at)) {
                const auto& l = light.at<cv::Vec3f>(at);
                const float grey = 0.3f * l[0] + 0.6f * l[1] + 0.1f * l[2];
                const float t = float(fromLinear(std::min(grey, 1.0f))) / 65535;
                const float faded = 0.20f + 0.62f * t;
                v = cv::Vec3f(faded + 0.055f, faded, faded * 0.86f);
            }
            if (in < 4) v = cv::Vec3f(0.16f, 0.16f, 0.165f);  // the scanner's lid beyond the paper
            for (int c = 0; c < 3; ++c) o[x][c] = cv::saturate_cast<ushort>((v[c] + fibre) * 65535);
        }
    }
    cv::GaussianBlur(out, out, {}, 0.6);
    return out;
}

Image askew(const Image& scan, double degrees) {
    Image out;
    const cv::Point2f middle(float(scan.cols) / 2, float(scan.rows) / 2);
    cv::warpAffine(scan, out, cv::getRotationMatrix2D(middle, degrees, 0.985), scan.size(),
                   cv::INTER_LINEAR, cv::BORDER_CONSTANT, cv::Scalar(10486, 10486, 10814));
    return out;
}

Status scanPrint(int i, const fs::path& prints, const fs::path& truth, int width,
                 std::uint32_t seed) {
    const int margin = width / 22;
    const Size size(width - 2 * margin, width * 3 / 4 - 2 * margin);
    const Image flat = printed(lightOf(i, size, seed), margin, hash32(seed, i, 61));
    const Image clean = askew(flat, 0.5 + 0.35 * i - (i % 2) * 1.6);
    const Worn worn =
        wear(clean,
             {.medium = Medium::Print, .seed = hash32(seed, i, 62), .amount = 1.0f, .harm = true});
    files::LoadedPicture scan;
    scan.pixelsPerMm = 600 / 25.4;
    const std::string name = fmt::format("KA-{:02}", i + 1);
    const files::WriteOptions options{.format = files::Format::Tiff16, .replace = true};
    scan.picture = {worn.worn, 16};
    if (auto ok = files::writePicture(prints / (name + ".tif"), scan, options); !ok) return ok;
    scan.picture = {clean, 16};
    if (auto ok = files::writePicture(truth / (name + ".clean.tif"), scan, options); !ok) return ok;
    return writeMaps(truth / name, worn);
}

}  // namespace

Status scanKeepersAlbum(const fs::path& folder, int width, std::uint32_t seed,
                        const Progress& progress, std::stop_token stop) {
    const fs::path prints = folder / "keepers-album", truth = folder / "truth" / "keepers-album";
    const std::string stamp = fmt::format("{} {} {}", kRevision, width, seed);
    return writeOnce(
        prints, truth, stamp, kPrints,
        [&](int i) { return scanPrint(i, prints, truth, width, seed); }, progress, stop);
}

}  // namespace gq::sim
