#include "core/files/picture_reader.h"

#include <fmt/core.h>

#include <mutex>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/files/folder_scan.h"
#include "core/files/metadata.h"
#include "core/files/raw.h"
#include "core/files/vips_setup.h"
#include "core/pixels/pyramid.h"

namespace gq::files {
namespace fs = std::filesystem;
using vips::VImage;

void startVips() {
    static std::once_flag once;
    std::call_once(once, [] {
        VIPS_INIT("gentle-quill");
        // It also remarks on tags that it does not know; what is wrong with a picture is an error.
        g_log_set_handler(
            "VIPS", G_LOG_LEVEL_WARNING, [](const char*, GLogLevelFlags, const char*, void*) {},
            nullptr);
        vips_cache_set_max(0);  // frames are read once; a cache would only hold memory
        vips_concurrency_set(2);
    });
}

tl::unexpected<Error> vipsReadError(const fs::path& file, const std::string& detail) {
    std::string first = detail.substr(0, detail.find('\n'));
    vips_error_clear();
    return fail(Error::Kind::Unreadable,
                fmt::format("the picture is damaged or cut short ({})", first), file.string(),
                "Copy it again from the camera or scanner, or leave it out.");
}

namespace {

/// `shrink` is for JPEGs: 1 or 2.
Result<VImage> openRaster(const fs::path& file, bool sequential, int shrink = 1) {
    startVips();
    std::error_code code;
    if (!fs::is_regular_file(file, code))
        return fail(Error::Kind::NotFound, "there is no such file", file.string(),
                    "Check the name, or connect the disk it is on.");
    if (!vips_foreign_find_load(file.c_str())) {
        vips_error_clear();
        return fail(Error::Kind::Unsupported, "this is not a picture that can be read",
                    file.string(), "Use JPEG, PNG, TIFF or a raw file.");
    }
    try {
        auto* options =
            VImage::option()
                ->set("access", sequential ? VIPS_ACCESS_SEQUENTIAL : VIPS_ACCESS_RANDOM)
                ->set("fail_on", VIPS_FAIL_ON_TRUNCATED);
        if (shrink > 1) options->set("shrink", shrink);
        return VImage::new_from_file(file.c_str(), options);
    } catch (const vips::VError& e) {
        return vipsReadError(file, e.what());
    }
}

Status checkSupported(const VImage& image, const fs::path& file, double pixelLimit) {
    if (double(image.width()) * image.height() > pixelLimit)
        return fail(Error::Kind::TooLarge,
                    fmt::format("the picture has {} x {} pixels, over the limit of {:.0f} million",
                                image.width(), image.height(), pixelLimit * 1e-6),
                    file.string(), "Raise the pixel limit if it is meant to be this large.");
    const auto format = image.format();
    const bool rgbOrGrey = image.interpretation() != VIPS_INTERPRETATION_CMYK &&
                           image.interpretation() != VIPS_INTERPRETATION_LAB;
    if ((format != VIPS_FORMAT_UCHAR && format != VIPS_FORMAT_USHORT) || !rgbOrGrey)
        return fail(Error::Kind::Unsupported, "only 8 and 16 bits in grey or RGB can be worked on",
                    file.string(), "Save it as 16-bit RGB and open that copy.");
    return {};
}

std::string formatName(const VImage& image) {
    const std::string loader =
        image.get_typeof("vips-loader") ? image.get_string("vips-loader") : "";
    if (loader.starts_with("jpeg")) return "JPEG";
    if (loader.starts_with("png") || loader.starts_with("spng")) return "PNG";
    return loader.starts_with("tiff") ? "TIFF" : "";
}

/// True if a page of the file is a picture like its first: thumbnails and the reduced copies of a
/// pyramid are smaller.
bool isPictureLike(const VImage& first, const fs::path& file, int page) {
    constexpr double kAlike = 0.75;  // of a side; copies in a pyramid have half
    try {
        const auto other = VImage::new_from_file(file.c_str(), VImage::option()->set("page", page));
        return other.width() >= kAlike * first.width() && other.height() >= kAlike * first.height();
    } catch (const vips::VError&) {
        vips_error_clear();  // what cannot be opened, as a mask, is no picture
        return false;
    }
}

/// Of very many pages those beyond the first hundred count without a look.
int picturePages(const VImage& first, const fs::path& file) {
    constexpr int kLookedAt = 100;
    const int all = first.get_typeof(VIPS_META_N_PAGES) ? first.get_int(VIPS_META_N_PAGES) : 1;
    int out = 1 + std::max(0, all - kLookedAt);
    for (int page = 1; page < std::min(all, kLookedAt); ++page)
        out += isPictureLike(first, file, page);
    return out;
}

void splitPlanes(const cv::Mat& all, int colours, LoadedPicture& out) {
    std::vector<cv::Mat> planes;
    cv::split(all, planes);
    if (colours == 1)
        out.picture.pixels = planes[0];
    else
        cv::merge(planes.data(), 3, out.picture.pixels);
    cv::merge(planes.data() + colours, planes.size() - size_t(colours), out.extra);
}

Result<LoadedPicture> readRaster(const fs::path& file, std::stop_token stop, double pixelLimit,
                                 int shrink) {
    auto opened = openRaster(file, true, shrink);
    if (!opened) return tl::unexpected(opened.error());
    VImage image = *opened;
    if (auto ok = checkSupported(image, file, pixelLimit); !ok) return tl::unexpected(ok.error());
    if (stop.stop_requested()) return cancelled();
    LoadedPicture out;
    out.picture.bits = image.format() == VIPS_FORMAT_USHORT ? 16 : 8;
    out.pixelsPerMm = image.xres();
    const int bands = image.bands(), colours = bands >= 3 ? 3 : 1;
    try {
        if (image.get_typeof(VIPS_META_ICC_NAME)) {
            size_t n = 0;
            const auto* bytes = static_cast<const char*>(image.get_blob(VIPS_META_ICC_NAME, &n));
            out.profile.assign(bytes, n);
        }
        cv::Mat all(image.height(), image.width(),
                    CV_MAKETYPE(out.picture.bits == 16 ? CV_16U : CV_8U, bands));
        const VImage target = VImage::new_from_memory(all.data, all.total() * all.elemSize(),
                                                      all.cols, all.rows, bands, image.format());
        image.write(target);
        if (out.picture.bits == 8) all = widen(all);
        if (bands == colours)
            out.picture.pixels = all;
        else
            splitPlanes(all, colours, out);
    } catch (const vips::VError& e) {
        return vipsReadError(file, e.what());
    }
    if (stop.stop_requested()) return cancelled();
    return out;
}

}  // namespace

Result<FrameInfo> readInfo(const fs::path& file, double pixelLimit) {
    if (looksRaw(file)) return readRawInfo(file, pixelLimit);
    auto image = openRaster(file, true);
    if (!image) return tl::unexpected(image.error());
    if (auto ok = checkSupported(*image, file, pixelLimit); !ok) return tl::unexpected(ok.error());
    FrameInfo info;
    info.file = file.string();
    info.format = formatName(*image);
    info.size = {image->width(), image->height()};
    info.bits = image->format() == VIPS_FORMAT_USHORT ? 16 : 8;
    info.channels = image->bands();
    info.pixelsPerInch = image->xres() * 25.4;
    if (info.format == "TIFF") info.pages = picturePages(*image, file);
    addMetadata(file, info);
    return info;
}

std::optional<Error> pagesLeft(const FrameInfo& info) {
    if (info.pages <= 1) return {};
    return Error{
        Error::Kind::Partial,
        fmt::format("the file holds {} pages, and the first alone is worked on", info.pages),
        info.file, "Save each page as a file of its own to clean them all."};
}

Result<LoadedPicture> readPicture(const fs::path& file, std::stop_token stop, double pixelLimit) {
    return looksRaw(file) ? readRaw(file, stop, pixelLimit) : readRaster(file, stop, pixelLimit, 1);
}

Result<Image> readHalf(const fs::path& file, std::stop_token stop) {
    startVips();
    const bool raw = looksRaw(file);
    const char* loader = raw ? nullptr : vips_foreign_find_load(file.c_str());
    const bool jpeg = loader && std::string_view(loader).starts_with("VipsForeignLoadJpeg");
    auto loaded = raw ? readRaw(file, stop, kPixelLimit, true)
                      : readRaster(file, stop, kPixelLimit, jpeg ? 2 : 1);
    if (!loaded) return tl::unexpected(loaded.error());
    return raw || jpeg ? loaded->picture.pixels : halved(loaded->picture.pixels);
}

}  // namespace gq::files
