#include "core/files/dng_previews.h"

#include <algorithm>
#include <cstdint>
#include <limits>
#include <memory>
#include <string>

#include "core/files/tiff_directory.h"
#include "core/files/vips_setup.h"

namespace gq::files {
namespace {

using Tiff = TiffDirectories;
using vips::VImage;

constexpr uint16_t kWidth = 256, kHeight = 257, kCompression = 259, kPhotometric = 262,
                   kStrips = 273, kSamples = 277, kStripBytes = 279, kJpegTables = 347;
constexpr uint32_t kPlain = 1, kJpeg = 7, kRgb = 2, kYCbCr = 6;
constexpr int kQuality = 92;
constexpr uint64_t kMostPixels = 200'000'000;  ///< more is no preview, but damage

/// A developed picture of a DNG, and how it lies there.
struct Preview {
    uint32_t width = 0, height = 0, at = 0, bytes = 0;
    bool jpeg = false;
};

std::optional<Preview> previewIn(const Tiff& tiff, const Tiff::Directory& directory) {
    const auto value = [&](uint16_t tag) -> uint32_t {
        for (const auto& e : directory.entries)
            if (e.tag == tag) return e.count == 1 ? tiff.valueOf(e) : 0;
        return 0;
    };
    const bool tables = std::any_of(directory.entries.begin(), directory.entries.end(),
                                    [](const auto& e) { return e.tag == kJpegTables; });
    const uint32_t coding = value(kCompression), light = value(kPhotometric);
    Preview out{value(kWidth), value(kHeight), value(kStrips), value(kStripBytes), coding == kJpeg};
    const auto pixels = uint64_t(out.width) * out.height;
    const bool sized = pixels > 0 && pixels < kMostPixels && out.at > 0 && value(kSamples) == 3;
    const bool plain = coding == kPlain && light == kRgb && out.bytes == 3 * pixels;
    if (sized && (plain || (out.jpeg && !tables && (light == kRgb || light == kYCbCr)))) return out;
    return std::nullopt;
}

/// A JPEG's 8-bit pixels, with all that it tells beside them.
VImage decoded(const std::string& bytes) {
    const std::unique_ptr<VipsBlob, void (*)(VipsBlob*)> blob(
        vips_blob_copy(bytes.data(), bytes.size()),
        [](VipsBlob* b) { vips_area_unref(VIPS_AREA(b)); });
    return VImage::jpegload_buffer(blob.get(),
                                   VImage::option()->set("fail_on", VIPS_FAIL_ON_ERROR));
}

/// The changed JPEG's bytes; empty if it is to stay. Throws VError where it is damaged.
std::string changedJpeg(const std::string& bytes, const Preview& of, const PreviewChange& change) {
    const VImage picture = decoded(bytes);
    if (picture.bands() != 3 || picture.width() != int(of.width) ||
        picture.height() != int(of.height))
        return {};
    size_t size = 0;
    const std::unique_ptr<void, decltype(&g_free)> memory(picture.write_to_memory(&size), &g_free);
    Image pixels = widen(Image8(int(of.height), int(of.width), CV_8UC3, memory.get()));
    if (!change(pixels)) return {};
    const Image8 coded = narrow(pixels);
    VImage out = VImage::new_from_memory(coded.data, coded.total() * 3, coded.cols, coded.rows, 3,
                                         VIPS_FORMAT_UCHAR)
                     .copy(VImage::option()->set("interpretation", VIPS_INTERPRETATION_sRGB));
    if (picture.get_typeof(VIPS_META_ICC_NAME)) {
        size_t length = 0;
        const void* profile = picture.get_blob(VIPS_META_ICC_NAME, &length);
        out.set(VIPS_META_ICC_NAME, nullptr, const_cast<void*>(profile), length);
    }
    void* written = nullptr;
    size_t length = 0;
    out.write_to_buffer(".jpg", &written, &length, VImage::option()->set("Q", kQuality));
    const std::unique_ptr<void, decltype(&g_free)> owner(written, &g_free);
    return {static_cast<const char*>(written), length};
}

}  // namespace

Status changePreviews(const std::filesystem::path& dng, const PreviewChange& change) {
    Tiff tiff(dng);
    if (!tiff.ok())
        return fail(Error::Kind::NoPermission, "it could not be written", dng.string(),
                    "Check the folder's permissions.");
    if (!tiff.isClassic()) return {};
    const auto links = tiff.links();
    if (!tiff.ok()) return {};  // it leads beyond its end: damaged, and left alone
    for (const uint32_t link : links) {
        auto directory = tiff.read(tiff.at(link));
        const auto preview = previewIn(tiff, directory);
        if (!preview) continue;
        std::string bytes = tiff.bytes(preview->at, preview->bytes);
        if (bytes.empty()) continue;
        if (!preview->jpeg) {
            Image pixels =
                widen(Image8(int(preview->height), int(preview->width), CV_8UC3, bytes.data()));
            if (!change(pixels)) continue;
            const Image8 changed = narrow(pixels);
            tiff.write(preview->at, changed.ptr<char>(), bytes.size());
            continue;
        }
        std::string coded;
        try {
            coded = changedJpeg(bytes, *preview, change);
        } catch (const vips::VError&) {  // a damaged one is left alone
            vips_error_clear();
        }
        if (coded.empty()) continue;
        std::error_code code;
        if (std::filesystem::file_size(dng, code) + coded.size() >
            std::numeric_limits<uint32_t>::max() - 65536)
            return fail(Error::Kind::TooLarge, "the DNG would be larger than 4 GB", dng.string(),
                        "Carry to its developed picture (TIFF).");
        for (auto& e : directory.entries) {
            if (e.tag == kStrips) e = tiff.entry(kStrips, Tiff::kLong, tiff.append(coded));
            if (e.tag == kStripBytes)
                e = tiff.entry(kStripBytes, Tiff::kLong, uint32_t(coded.size()));
        }
        tiff.write(link, tiff.append(std::move(directory)));
    }
    if (tiff.ok()) return {};
    return fail(Error::Kind::DiskFull, "it could not be written", dng.string(),
                "Check the folder and the free space of the disk.");
}

}  // namespace gq::files
