#include "core/files/raw.h"

#include <fmt/core.h>
#include <libraw/libraw.h>

#include <cstring>
#include <ctime>
#include <memory>

#include "core/files/vips_setup.h"

namespace gq::files {
namespace fs = std::filesystem;
namespace {

using Processed = std::unique_ptr<libraw_processed_image_t, decltype(&LibRaw::dcraw_clear_mem)>;

Orientation fromFlip(int flip) {
    switch (flip) {
        case 3:
            return Orientation::Turn180;
        case 5:
            return Orientation::Turn270;
        case 6:
            return Orientation::Turn90;
        default:
            return Orientation::Upright;
    }
}

tl::unexpected<Error> rawError(const fs::path& file, int code) {
    if (code == LIBRAW_FILE_UNSUPPORTED)
        return fail(Error::Kind::Unsupported, "this raw file is of a kind that cannot be read",
                    file.string(), "Convert it to DNG or TIFF and open that.");
    return fail(Error::Kind::Unreadable,
                fmt::format("the raw file is damaged or cut short ({})", libraw_strerror(code)),
                file.string(), "Copy it again from the camera, or leave it out.");
}

Result<std::unique_ptr<LibRaw>> open(const fs::path& file, double pixelLimit) {
    std::error_code missing;
    if (!fs::is_regular_file(file, missing))
        return fail(Error::Kind::NotFound, "there is no such file", file.string(),
                    "Check the name, or connect the disk it is on.");
    auto raw = std::make_unique<LibRaw>();
    if (const int code = raw->open_file(file.c_str())) return rawError(file, code);
    const auto& s = raw->imgdata.sizes;
    if (double(s.raw_width) * s.raw_height > pixelLimit)
        return fail(Error::Kind::TooLarge, "the raw picture is over the pixel limit", file.string(),
                    "Raise the pixel limit if it is meant to be this large.");
    return raw;
}

int stopCallback(void* stop, LibRaw_progress, int, int) {
    return static_cast<std::stop_token*>(stop)->stop_requested() ? 1 : 0;
}

}  // namespace

Result<FrameInfo> readRawInfo(const fs::path& file, double pixelLimit) {
    auto raw = open(file, pixelLimit);
    if (!raw) return tl::unexpected(raw.error());
    const auto& d = (*raw)->imgdata;
    FrameInfo info;
    info.file = file.string();
    info.format = "raw";
    info.size = {d.sizes.width, d.sizes.height};
    info.bits = 16;
    info.orientation = fromFlip(d.sizes.flip);
    info.camera = fmt::format("{} {}", d.idata.make, d.idata.model);
    info.aperture = double(d.other.aperture);
    info.exposureTime = double(d.other.shutter);
    const std::time_t t = d.other.timestamp;
    std::tm parts{};
    char text[32] = "";
    if (t > 0 && localtime_r(&t, &parts))
        std::strftime(text, sizeof text, "%Y:%m:%d %H:%M:%S", &parts);
    info.taken = text;
    return info;
}

Result<LoadedPicture> readRaw(const fs::path& file, std::stop_token stop, double pixelLimit,
                              bool half) {
    auto raw = open(file, pixelLimit);
    if (!raw) return tl::unexpected(raw.error());
    auto& lr = **raw;
    auto& p = lr.imgdata.params;
    p.use_camera_wb = 1;
    p.no_auto_bright = 1;
    p.output_bps = 16;
    p.output_color = 1;
    p.gamm[0] = 1 / 2.4;
    p.gamm[1] = 12.92;
    p.user_flip = 0;
    p.user_qual = 3;
    p.half_size = half;
    p.adjust_maximum_thr = 0;  // the same exposure for every frame of a series
    lr.set_progress_handler(stopCallback, &stop);
    int code = lr.unpack();
    if (!code) code = lr.dcraw_process();
    if (code == LIBRAW_CANCELLED_BY_CALLBACK) return cancelled();
    if (code) return rawError(file, code);
    const Processed image(lr.dcraw_make_mem_image(&code), &LibRaw::dcraw_clear_mem);
    if (!image || image->bits != 16) return rawError(file, code);
    LoadedPicture out;
    out.picture.bits = 16;
    out.picture.pixels.create(image->height, image->width, CV_MAKETYPE(CV_16U, image->colors));
    std::memcpy(out.picture.pixels.data, image->data, image->data_size);
    startVips();
    VipsBlob* profile = nullptr;
    if (vips_profile_load("srgb", &profile, nullptr) == 0 && profile) {
        size_t n = 0;
        const auto* bytes = static_cast<const char*>(vips_blob_get(profile, &n));
        out.profile.assign(bytes, n);
        vips_area_unref(VIPS_AREA(profile));
    }
    return out;
}

Result<RawPreview> readPreview(const fs::path& file) {
    auto raw = open(file, kPixelLimit);
    if (!raw) return tl::unexpected(raw.error());
    auto& lr = **raw;
    RawPreview out{{}, {}, {lr.imgdata.sizes.width, lr.imgdata.sizes.height}};
    if (lr.unpack_thumb()) return out;
    int code = 0;
    const Processed thumb(lr.dcraw_make_mem_thumb(&code), &LibRaw::dcraw_clear_mem);
    if (!thumb) return out;
    if (thumb->type == LIBRAW_IMAGE_JPEG)
        out.jpeg.assign(reinterpret_cast<const char*>(thumb->data), thumb->data_size);
    else if (thumb->bits == 8 && thumb->colors == 3)
        out.bitmap = Image8(thumb->height, thumb->width, CV_8UC3, thumb->data).clone();
    return out;
}

}  // namespace gq::files
