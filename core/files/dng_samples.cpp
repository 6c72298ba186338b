#include "core/files/dng_samples.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <limits>

#include "core/files/tiff_directory.h"

namespace gq::files {
namespace fs = std::filesystem;
namespace {

constexpr uint16_t kBits = 258, kCompression = 259, kStrips = 273, kRowsPerStrip = 278,
                   kStripBytes = 279, kPredictor = 317, kTileWidth = 322, kTileBytes = 325,
                   kJpegTables = 347, kCurve = 50712, kWhite = 50717;
constexpr uint32_t kUncompressed = 1;

/// Tags that tell how samples are coded, and where they lie.
bool isOfCoding(uint16_t tag) {
    constexpr std::array<uint16_t, 8> kTags{kBits,       kCompression, kStrips,     kRowsPerStrip,
                                            kStripBytes, kPredictor,   kJpegTables, kCurve};
    return (tag >= kTileWidth && tag <= kTileBytes) ||
           std::find(kTags.begin(), kTags.end(), tag) != kTags.end();
}

}  // namespace

Status replaceSamples(const fs::path& file, const DngPlace& place, const Image& samples,
                      uint32_t white) {
    std::error_code code;
    if (place.tail) fs::resize_file(file, *place.tail, code);
    const auto bytes = uintmax_t(samples.total()) * 2;
    if (!code && fs::file_size(file, code) + bytes > std::numeric_limits<uint32_t>::max() - 65536)
        return fail(Error::Kind::TooLarge, "the DNG would be larger than 4 GB", file.string(),
                    "Carry to its developed picture (TIFF).");
    TiffDirectories tiff(file);
    const auto damaged = [&] {
        return fail(Error::Kind::Unreadable, "its tags are damaged", file.string(),
                    "Copy it again from the camera, or leave it out.");
    };
    if (!tiff.ok() || !tiff.isClassic()) return damaged();
    const auto link = tiff.linkTo(place.directory);
    auto directory = tiff.read(place.directory);
    if (!link || !tiff.ok()) return damaged();
    const uint32_t at = tiff.append(samples);
    auto& all = directory.entries;
    std::erase_if(all, [](const auto& e) { return isOfCoding(e.tag); });
    using T = TiffDirectories;
    all.push_back(tiff.entry(kBits, T::kShort, 16));
    all.push_back(tiff.entry(kCompression, T::kShort, kUncompressed));
    all.push_back(tiff.entry(kStrips, T::kLong, at));
    all.push_back(tiff.entry(kRowsPerStrip, T::kLong, uint32_t(samples.rows)));
    all.push_back(tiff.entry(kStripBytes, T::kLong, uint32_t(bytes)));
    if (std::none_of(all.begin(), all.end(), [](const auto& e) { return e.tag == kWhite; }))
        all.push_back(tiff.entry(kWhite, T::kLong, white));
    tiff.write(*link, tiff.append(std::move(directory)));
    if (code || !tiff.ok())
        return fail(Error::Kind::DiskFull, "it could not be written", file.string(),
                    "Check the folder and the free space of the disk.");
    return {};
}

}  // namespace gq::files
