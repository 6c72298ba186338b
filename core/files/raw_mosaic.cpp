#include "core/files/raw_mosaic.h"

#include <libraw/libraw.h>
#include <tiffio.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <numeric>

#include "core/files/dng_digest.h"
#include "core/files/dng_samples.h"
#include "core/files/safe_write.h"

namespace gq::files {
namespace fs = std::filesystem;
namespace {

using Tiff = std::unique_ptr<TIFF, decltype(&TIFFClose)>;

/// The samples, where the picture lies on them, and between which levels light is counted.
struct Mosaic {
    Image samples;
    Point margin;
    std::array<float, 4>
        black{};  ///< of the four places of a 2 x 2 cell, from the picture's corner
    float white = 65535;
};

tl::unexpected<Error> unsupported(const fs::path& file, const char* what) {
    return fail(Error::Kind::Unsupported, what, file.string(),
                "Carry to its developed picture (TIFF), or convert it to a DNG with a mosaic.");
}

Result<Mosaic> mosaicOf(const fs::path& file) {
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
    if (!raw.imgdata.rawdata.raw_image)
        return unsupported(file, "this raw file holds no mosaic of samples");
    const Image samples(s.raw_height, s.raw_width, CV_16U, raw.imgdata.rawdata.raw_image,
                        s.raw_pitch);
    Mosaic out{samples.clone(), {s.left_margin, s.top_margin}, {}, float(c.maximum)};
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

/// Divides the samples under the shades.
void divide(Mosaic& m, const std::vector<MosaicShade>& shades) {
    for (const auto& shade : shades) {
        const Rect in = (shade.box + m.margin) & Rect({0, 0}, m.samples.size());
        for (int y = in.y; y < in.br().y; ++y)
            for (int x = in.x; x < in.br().x; ++x) {
                const Point seen = Point(x, y) - m.margin;
                const float log = shade.logShare.at<float>(seen - shade.box.tl());
                if (log == 0) continue;
                const float black = m.black[size_t(2 * (seen.y & 1) + (seen.x & 1))];
                auto& v = m.samples.at<uint16_t>(y, x);
                const float light = (float(v) - black) / std::exp(log);
                v = uint16_t(std::lround(std::clamp(black + light, 0.0f, m.white)));
            }
    }
}

/// Strips or tiles of the current directory.
struct Pieces {
    bool tiled = false;
    Size size;
    int across = 1;
    uint32_t count = 0;
    tmsize_t bytes = 0;  ///< of one

    [[nodiscard]] Rect at(uint32_t i) const {
        return {int(i) % across * size.width, int(i) / across * size.height, size.width,
                size.height};
    }
};

Pieces piecesOf(TIFF* t, const Size& whole) {
    uint32_t width = uint32_t(whole.width), height = uint32_t(whole.height);
    const bool tiled = TIFFIsTiled(t);
    if (tiled) TIFFGetField(t, TIFFTAG_TILEWIDTH, &width);
    TIFFGetFieldDefaulted(t, tiled ? TIFFTAG_TILELENGTH : TIFFTAG_ROWSPERSTRIP, &height);
    const Size size(int(width), int(std::min(height, uint32_t(std::max(whole.height, 16)))));
    return {tiled, size, (whole.width + size.width - 1) / size.width,
            tiled ? TIFFNumberOfTiles(t) : TIFFNumberOfStrips(t),
            tiled ? TIFFTileSize(t) : TIFFStripSize(t)};
}

/// Writes the samples under the shades into the strips and tiles of the current directory.
bool rewrite(TIFF* t, const Mosaic& m, const std::vector<MosaicShade>& shades) {
    const Rect whole({0, 0}, m.samples.size());
    const Pieces pieces = piecesOf(t, m.samples.size());
    std::vector<uint16_t> buffer(size_t(pieces.bytes) / 2);
    for (uint32_t i = 0; i < pieces.count; ++i) {
        const Rect at = pieces.at(i);
        const bool shaded = std::any_of(shades.begin(), shades.end(), [&](const auto& shade) {
            return !((shade.box + m.margin) & at).empty();
        });
        if (!shaded) continue;
        const auto read = pieces.tiled ? TIFFReadEncodedTile(t, i, buffer.data(), pieces.bytes)
                                       : TIFFReadEncodedStrip(t, i, buffer.data(), pieces.bytes);
        if (read < 0) return false;
        const Image piece(int(read / 2 / at.width), at.width, CV_16U, buffer.data());
        for (const auto& shade : shades)
            if (const Rect in = (shade.box + m.margin) & Rect(at.tl(), piece.size()) & whole;
                !in.empty())
                m.samples(in).copyTo(piece(in - at.tl()));
        const auto written = pieces.tiled ? TIFFWriteEncodedTile(t, i, buffer.data(), read)
                                          : TIFFWriteEncodedStrip(t, i, buffer.data(), read);
        if (written != read) return false;
    }
    return true;
}

/// Where the samples of the current directory begin, if nothing follows them but padding.
std::optional<uintmax_t> tailOf(TIFF* t, uint32_t count, uintmax_t fileSize) {
    const bool tiled = TIFFIsTiled(t);
    uint64_t *offsets = nullptr, *bytes = nullptr;
    if (!TIFFGetField(t, tiled ? TIFFTAG_TILEOFFSETS : TIFFTAG_STRIPOFFSETS, &offsets) ||
        !TIFFGetField(t, tiled ? TIFFTAG_TILEBYTECOUNTS : TIFFTAG_STRIPBYTECOUNTS, &bytes))
        return std::nullopt;
    const uintmax_t start = *std::min_element(offsets, offsets + count),
                    all = std::accumulate(bytes, bytes + count, uintmax_t(0));
    // Each may be filled up to an even length.
    if (start + all > fileSize || fileSize - start - all > count) return std::nullopt;
    return start;
}

/// Gives `file`, a copy of `source` that becomes `target`, the samples: those under the shades, or
/// all where they have to be coded anew.
Status storeSamples(const std::string& file, const fs::path& source, const fs::path& target,
                    const Mosaic& mosaic, const std::vector<MosaicShade>& shades) {
    DngPlace place;
    {
        const Tiff t(TIFFOpen(file.c_str(), "r+"), &TIFFClose);
        uint8_t* version = nullptr;
        if (!t || !TIFFGetField(t.get(), TIFFTAG_DNGVERSION, &version))
            return unsupported(source, "this raw file is no DNG");
        if (!findMosaic(t.get(), mosaic.samples.size()))
            return unsupported(source, "this DNG holds no mosaic of samples");
        uint16_t compression = 0, bits = 0, steps = 0;
        uint16_t* curve = nullptr;
        TIFFGetField(t.get(), TIFFTAG_COMPRESSION, &compression);
        TIFFGetField(t.get(), TIFFTAG_BITSPERSAMPLE, &bits);
        const bool coded = TIFFGetField(t.get(), TIFFTAG_LINEARIZATIONTABLE, &steps, &curve);
        if (compression == COMPRESSION_NONE && bits == 16 && !coded) {
            if (rewrite(t.get(), mosaic, shades)) return {};
            return fail(Error::Kind::DiskFull, "it could not be written", target.string(),
                        "Check the folder and the free space of the disk.");
        }
        place.directory = uint32_t(TIFFCurrentDirOffset(t.get()));
        place.tail =
            tailOf(t.get(), piecesOf(t.get(), mosaic.samples.size()).count, fs::file_size(file));
    }
    auto stored = replaceSamples(file, place, mosaic.samples, uint32_t(mosaic.white));
    if (!stored) stored.error().file = target.string();
    return stored;
}

}  // namespace

Status writeUnshadedDng(const fs::path& source, const fs::path& target,
                        const std::vector<MosaicShade>& shades, bool replace,
                        const PreviewChange& onPreview) {
    std::error_code same;
    if (fs::equivalent(target, source, same))
        return fail(Error::Kind::Refused, "this is an original, which is never written to",
                    target.string(), "Choose another folder or name.");
    auto mosaic = mosaicOf(source);
    if (!mosaic) return tl::unexpected(mosaic.error());
    divide(*mosaic, shades);
    return writeSafely(target, replace, [&](const std::string& temporary) -> Status {
        std::error_code code;
        fs::copy_file(source, temporary, fs::copy_options::overwrite_existing, code);
        if (code)
            return fail(Error::Kind::DiskFull, "it could not be written", target.string(),
                        "Check the folder and the free space of the disk.");
        fs::permissions(temporary, fs::perms::owner_write, fs::perm_options::add, code);
        if (auto ok = storeSamples(temporary, source, target, *mosaic, shades); !ok) return ok;
        if (onPreview)
            if (auto ok = changePreviews(temporary, onPreview); !ok) return ok;
        return clearRawDigests(temporary);
    });
}

}  // namespace gq::files
