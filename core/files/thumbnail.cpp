#include <cmath>
#include <memory>
#include <opencv2/imgproc.hpp>

#include "core/files/folder_scan.h"
#include "core/files/raw.h"
#include "core/files/vips_setup.h"
#include "core/pixels/pyramid.h"

namespace gq::files {
namespace fs = std::filesystem;
using vips::VImage;

namespace {

constexpr double kSameShape = 0.03;  ///< a preview's sides are rounded, or it lacks a margin

vips::VOption* within(int side) {
    return VImage::option()
        ->set("height", side)
        ->set("no_rotate", true)
        ->set("size", VIPS_SIZE_DOWN);
}

Image8 colour(VImage image) {
    if (image.format() == VIPS_FORMAT_USHORT) image = image.cast(VIPS_FORMAT_USHORT).msb();
    if (image.bands() < 3)
        image =
            image.extract_band(0).bandjoin(image.extract_band(0)).bandjoin(image.extract_band(0));
    if (image.bands() > 3) image = image.extract_band(0, VImage::option()->set("n", 3));
    Image8 out(image.height(), image.width(), CV_8UC3);
    const VImage target = VImage::new_from_memory(out.data, out.total() * 3, out.cols, out.rows, 3,
                                                  VIPS_FORMAT_UCHAR);
    image.cast(VIPS_FORMAT_UCHAR).write(target);
    return out;
}

Image8 shrunk(const Image8& picture, int side) {
    Image8 out;
    const double k = double(side) / std::max(picture.cols, picture.rows);
    if (k >= 1) return picture;
    cv::resize(picture, out, {}, k, k, cv::INTER_AREA);
    return out;
}

/// A raw file's own preview; empty if it is too small, of another shape, or damaged.
Image8 fromPreview(const RawPreview& preview, int side) {
    Image8 out = preview.bitmap;
    if (!preview.jpeg.empty()) {
        const std::unique_ptr<VipsBlob, void (*)(VipsBlob*)> file(
            vips_blob_copy(preview.jpeg.data(), preview.jpeg.size()),
            [](VipsBlob* b) { vips_area_unref(VIPS_AREA(b)); });
        try {
            out = colour(VImage::thumbnail_buffer(file.get(), side, within(side)));
        } catch (const vips::VError&) {
            vips_error_clear();
            return {};
        }
    }
    if (std::max(out.cols, out.rows) < side) return {};
    const double shape =
        double(out.cols) * preview.picture.height / (double(out.rows) * preview.picture.width);
    return std::abs(shape - 1) < kSameShape ? shrunk(out, side) : Image8();
}

Result<Image8> rawThumbnail(const fs::path& file, int side) {
    const auto preview = readPreview(file);
    if (!preview) return tl::unexpected(preview.error());
    if (Image8 quick = fromPreview(*preview, side); !quick.empty()) return quick;
    const auto raw = readRaw(file, {}, kPixelLimit, true);
    if (!raw) return tl::unexpected(raw.error());
    return shrunk(narrow(asColour(raw->picture.pixels)), side);
}

}  // namespace

Result<Image8> readThumbnail(const fs::path& file, int side) {
    startVips();
    if (looksRaw(file)) return rawThumbnail(file, side);
    const auto info = readInfo(file);
    if (!info) return tl::unexpected(info.error());
    try {
        return colour(VImage::thumbnail(file.c_str(), side, within(side)));
    } catch (const vips::VError& e) {
        return vipsReadError(file, e.what());
    }
}

}  // namespace gq::files
