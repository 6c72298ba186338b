#include "core/files/picture_writer.h"

#include <fmt/core.h>

#include <array>
#include <utility>

#include "core/files/folder_scan.h"
#include "core/files/metadata.h"
#include "core/files/safe_write.h"
#include "core/files/vips_setup.h"

namespace gq::files {
namespace fs = std::filesystem;
using vips::VImage;
namespace {

constexpr std::array<std::pair<Format, const char*>, 5> kWords{{{Format::Tiff8, "tiff8"},
                                                                {Format::Tiff16, "tiff16"},
                                                                {Format::Png8, "png8"},
                                                                {Format::Png16, "png16"},
                                                                {Format::Jpeg, "jpeg"}}};

bool isSixteen(Format f) {
    return f == Format::Tiff16 || f == Format::Png16;
}

cv::Mat withExtra(const LoadedPicture& loaded) {
    std::vector<cv::Mat> planes, extra;
    cv::split(loaded.picture.pixels, planes);
    cv::split(loaded.extra, extra);
    planes.insert(planes.end(), extra.begin(), extra.end());
    cv::Mat all;
    cv::merge(planes, all);
    return all;
}

void save(const VImage& image, const std::string& file, const WriteOptions& o) {
    switch (o.format) {
        case Format::Jpeg:
            image.jpegsave(file.c_str(), VImage::option()
                                             ->set("Q", o.jpegQuality)
                                             ->set("subsample_mode", VIPS_FOREIGN_SUBSAMPLE_OFF)
                                             ->set("optimize_coding", false));
            break;
        case Format::Png8:
        case Format::Png16:
            image.pngsave(file.c_str(), VImage::option()->set("compression", 3));
            break;
        case Format::Tiff8:
        case Format::Tiff16:
            image.tiffsave(file.c_str(),
                           VImage::option()
                               ->set("compression", VIPS_FOREIGN_TIFF_COMPRESSION_LZW)
                               ->set("predictor", VIPS_FOREIGN_TIFF_PREDICTOR_HORIZONTAL));
            break;
    }
}

Status encode(const std::string& temporary, const LoadedPicture& loaded, const WriteOptions& o,
              const fs::path& target) {
    startVips();
    const bool planes = !loaded.extra.empty() && o.format != Format::Jpeg;
    cv::Mat all = planes ? withExtra(loaded) : loaded.picture.pixels;
    if (!isSixteen(o.format)) all = narrow(all);
    if (!all.isContinuous()) all = all.clone();
    try {
        VImage image = VImage::new_from_memory(
            all.data, all.total() * all.elemSize(), all.cols, all.rows, all.channels(),
            isSixteen(o.format) ? VIPS_FORMAT_USHORT : VIPS_FORMAT_UCHAR);
        const bool grey = loaded.picture.pixels.channels() == 1;
        image = image.copy(VImage::option()->set(
            "interpretation", isSixteen(o.format)
                                  ? (grey ? VIPS_INTERPRETATION_GREY16 : VIPS_INTERPRETATION_RGB16)
                                  : (grey ? VIPS_INTERPRETATION_B_W : VIPS_INTERPRETATION_sRGB)));
        if (loaded.pixelsPerMm > 0) {
            image.get_image()->Xres = loaded.pixelsPerMm;
            image.get_image()->Yres = loaded.pixelsPerMm;
        }
        if (!loaded.profile.empty())
            image.set(VIPS_META_ICC_NAME, nullptr, const_cast<char*>(loaded.profile.data()),
                      loaded.profile.size());
        save(image, temporary, o);
    } catch (const vips::VError& e) {
        const std::string detail = e.what();
        vips_error_clear();
        return fail(
            Error::Kind::DiskFull,
            fmt::format("it could not be written ({})", detail.substr(0, detail.find('\n'))),
            target.string(), "Check the free space of the disk, then try again.");
    }
    return {};
}

}  // namespace

std::string formatWord(Format format) {
    for (const auto& [f, word] : kWords)
        if (f == format) return word;
    return {};
}

std::optional<Format> formatFromWord(const std::string& word) {
    for (const auto& [f, w] : kWords)
        if (w == word) return f;
    return std::nullopt;
}

std::string suffix(Format format) {
    if (format == Format::Jpeg) return ".jpg";
    return format == Format::Png8 || format == Format::Png16 ? ".png" : ".tif";
}

std::optional<Format> formatForName(const fs::path& file, int bits) {
    std::string s = file.extension().string();
    for (auto& c : s) c = char(std::tolower(static_cast<unsigned char>(c)));
    if (s == ".jpg" || s == ".jpeg") return Format::Jpeg;
    if (s == ".png") return bits == 16 ? Format::Png16 : Format::Png8;
    if (s == ".tif" || s == ".tiff") return bits == 16 ? Format::Tiff16 : Format::Tiff8;
    return std::nullopt;
}

const std::vector<Format>& allFormats() {
    static const std::vector<Format> all = [] {
        std::vector<Format> list;
        for (const auto& [f, word] : kWords) list.push_back(f);
        return list;
    }();
    return all;
}

Status writePicture(const fs::path& target, const LoadedPicture& loaded,
                    const WriteOptions& options, const fs::path& original) {
    std::error_code code;
    if (!original.empty() && fs::equivalent(target, original, code))
        return fail(Error::Kind::Refused, "this is an original, which is never written to",
                    target.string(), "Choose another folder or name.");
    return writeSafely(target, options.replace, [&](const std::string& temporary) -> Status {
        if (auto done = encode(temporary, loaded, options, target); !done) return done;
        if (original.empty()) return {};
        return copyMetadata(original, temporary);
    });
}

Status writeImage8(const fs::path& target, const Image8& image) {
    LoadedPicture loaded;
    loaded.picture = {widen(image), 8};
    return writePicture(target, loaded, {.format = Format::Png8, .replace = true});
}

}  // namespace gq::files
