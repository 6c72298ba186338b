#include "core/files/raw_mosaic.h"

#include <libraw/libraw.h>
#include <tiffio.h>

#include <array>
#include <cmath>
#include <memory>

#include "core/files/dng_digest.h"
#include "core/files/safe_write.h"

namespace gq::files {
namespace fs = std::filesystem;
namespace {

using Tiff = std::unique_ptr<TIFF, decltype(&TIFFClose)>;

/// Where the picture lies on the mosaic, and between which levels light is counted.
struct Layout {
    Size raw;
    Point margin;
    std::array<float, 4>
        black{};  ///< of the four places of a 2 x 2 cell, from the picture's corner
    float white = 65535;
};

tl::unexpected<Error> unsupported(const fs::path& file, const char* what) {
    return fail(Error::Kind::Unsupported, what, file.string(),
                "Carry to its developed picture (TIFF), or convert it to an uncompressed DNG.");
}

Result<Layout> layoutOf(const fs::path& file) {
    LibRaw raw;
    const int opened = raw.open_file(file.c_str());
    if (opened == LIBRAW_FILE_UNSUPPORTED) return unsupported(file, "this is no raw file");
    if (opened || raw.unpack())
        return fail(Error::Kind::Unreadable, "the raw file is damaged or cut short", file.string(),
                    "Copy it again from the camera, or leave it out.");
    const auto& s = raw.imgdata.sizes;
    const auto& c = raw.imgdata.color;
    if (c.cblack[4] > 2 || c.cblack[5] > 2)
        return unsupported(file, "the black level of this DNG varies over the picture");
    Layout out{{s.raw_width, s.raw_height}, {s.left_margin, s.top_margin}, {}, float(c.maximum)};
    for (unsigned y = 0; y < 2; ++y)
        for (unsigned x = 0; x < 2; ++x) {
            unsigned level = c.black + c.cblack[raw.COLOR(int(y), int(x))];
            if (c.cblack[4] && c.cblack[5])
                level += c.cblack[6 + y % c.cblack[4] * c.cblack[5] + x % c.cblack[5]];
            out.black[2 * y + x] = float(level);
        }
    return out;
}

/// Makes the mosaic's directory the current one.
bool findMosaic(TIFF* t, const Size& size) {
    const auto fits = [&] {
        uint16_t photometric = 0;
        uint32_t width = 0, height = 0;
        TIFFGetField(t, TIFFTAG_PHOTOMETRIC, &photometric);
        TIFFGetField(t, TIFFTAG_IMAGEWIDTH, &width);
        TIFFGetField(t, TIFFTAG_IMAGELENGTH, &height);
        return photometric == PHOTOMETRIC_CFA && int(width) == size.width &&
               int(height) == size.height;
    };
    do {
        if (fits()) return true;
        uint16_t count = 0;
        uint64_t* offsets = nullptr;
        const auto main = TIFFCurrentDirectory(t);
        if (!TIFFGetField(t, TIFFTAG_SUBIFD, &count, &offsets)) continue;
        const std::vector<uint64_t> all(offsets, offsets + count);
        for (const auto offset : all)
            if (TIFFSetSubDirectory(t, offset) && fits()) return true;
        TIFFSetDirectory(t, main);
    } while (TIFFReadDirectory(t));
    return false;
}

/// Divides the samples of one strip or tile, which lies at `at` of the mosaic.
bool divide(uint16_t* samples, const Rect& at, const Layout& l,
            const std::vector<MosaicShade>& shades) {
    bool changed = false;
    for (const auto& shade : shades) {
        const Rect in = (shade.box + l.margin) & at & Rect({0, 0}, l.raw);
        for (int y = in.y; y < in.br().y; ++y)
            for (int x = in.x; x < in.br().x; ++x) {
                const Point p = Point(x, y) - l.margin - shade.box.tl();
                const float log = shade.logShare.at<float>(p);
                if (log == 0) continue;
                uint16_t& v = samples[size_t(y - at.y) * size_t(at.width) + size_t(x - at.x)];
                const Point seen = Point(x, y) - l.margin;
                const int place = 2 * (seen.y & 1) + (seen.x & 1);
                const float black = l.black[size_t(place)];
                const float light = (float(v) - black) / std::exp(log);
                v = uint16_t(std::lround(std::clamp(black + light, 0.0f, l.white)));
                changed = true;
            }
    }
    return changed;
}

/// Rewrites the strips or tiles of the current directory that are shaded, in place.
bool divideAll(TIFF* t, const Layout& l, const std::vector<MosaicShade>& shades) {
    const bool tiled = TIFFIsTiled(t);
    uint32_t width = uint32_t(l.raw.width), height = 0;
    if (tiled) {
        TIFFGetField(t, TIFFTAG_TILEWIDTH, &width);
        TIFFGetField(t, TIFFTAG_TILELENGTH, &height);
    } else {
        TIFFGetFieldDefaulted(t, TIFFTAG_ROWSPERSTRIP, &height);
        height = std::min(height, uint32_t(l.raw.height));
    }
    const auto bytes = tiled ? TIFFTileSize(t) : TIFFStripSize(t);
    std::vector<uint16_t> samples(size_t(bytes) / 2);
    const uint32_t across = (uint32_t(l.raw.width) + width - 1) / width,
                   count = tiled ? TIFFNumberOfTiles(t) : TIFFNumberOfStrips(t);
    for (uint32_t i = 0; i < count; ++i) {
        const Rect at(int(i % across * width), int(i / across * height), int(width), int(height));
        const auto read = tiled ? TIFFReadEncodedTile(t, i, samples.data(), bytes)
                                : TIFFReadEncodedStrip(t, i, samples.data(), bytes);
        if (read < 0) return false;
        const Rect whole(at.x, at.y, at.width, int(read / 2 / at.width));
        if (!divide(samples.data(), whole, l, shades)) continue;
        const auto written = tiled ? TIFFWriteEncodedTile(t, i, samples.data(), read)
                                   : TIFFWriteEncodedStrip(t, i, samples.data(), read);
        if (written != read) return false;
    }
    return true;
}

/// Divides the samples of `file`, a copy of `source` that becomes `target`.
Status divideFile(const std::string& file, const fs::path& source, const fs::path& target,
                  const Layout& layout, const std::vector<MosaicShade>& shades) {
    const Tiff t(TIFFOpen(file.c_str(), "r+"), &TIFFClose);
    uint8_t* version = nullptr;
    if (!t || !TIFFGetField(t.get(), TIFFTAG_DNGVERSION, &version))
        return unsupported(source, "this raw file is no DNG");
    if (!findMosaic(t.get(), layout.raw))
        return unsupported(source, "this DNG holds no mosaic of samples");
    uint16_t compression = 0, bits = 0, steps = 0;
    uint16_t* curve = nullptr;
    TIFFGetField(t.get(), TIFFTAG_COMPRESSION, &compression);
    TIFFGetField(t.get(), TIFFTAG_BITSPERSAMPLE, &bits);
    if (compression != COMPRESSION_NONE || bits != 16)
        return unsupported(source, "the samples of this DNG are compressed");
    if (TIFFGetField(t.get(), TIFFTAG_LINEARIZATIONTABLE, &steps, &curve))
        return unsupported(source, "the samples of this DNG are coded by a curve");
    if (!divideAll(t.get(), layout, shades))
        return fail(Error::Kind::DiskFull, "it could not be written", target.string(),
                    "Check the folder and the free space of the disk.");
    return {};
}

}  // namespace

Status writeUnshadedDng(const fs::path& source, const fs::path& target,
                        const std::vector<MosaicShade>& shades, bool replace) {
    const auto layout = layoutOf(source);
    if (!layout) return tl::unexpected(layout.error());
    return writeSafely(target, replace, [&](const std::string& temporary) -> Status {
        std::error_code code;
        fs::copy_file(source, temporary, fs::copy_options::overwrite_existing, code);
        if (code)
            return fail(Error::Kind::DiskFull, "it could not be written", target.string(),
                        "Check the folder and the free space of the disk.");
        fs::permissions(temporary, fs::perms::owner_write, fs::perm_options::add, code);
        if (auto ok = divideFile(temporary, source, target, *layout, shades); !ok) return ok;
        return clearRawDigests(temporary);
    });
}

}  // namespace gq::files
