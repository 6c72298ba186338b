#include "sim/dng_writer.h"

#include <tiffio.h>

#include <algorithm>
#include <array>
#include <memory>
#include <opencv2/core.hpp>

#include "core/pixels/color.h"
#include "sim/lossless_jpeg.h"
#include "sim/photo.h"

namespace gq::sim {
namespace {

constexpr int kTile = 256, kStripRows = 64;

/// Raw readers take no tile that is wider than the picture; tiles are multiples of 16 px.
Size tileOf(const Image& mosaic) {
    return {std::min(kTile, mosaic.cols & ~15), kTile};
}

void setPicture(TIFF* t, const Size& size, int channels, int bits, int photometric) {
    TIFFSetField(t, TIFFTAG_IMAGEWIDTH, uint32_t(size.width));
    TIFFSetField(t, TIFFTAG_IMAGELENGTH, uint32_t(size.height));
    TIFFSetField(t, TIFFTAG_BITSPERSAMPLE, bits);
    TIFFSetField(t, TIFFTAG_SAMPLESPERPIXEL, channels);
    TIFFSetField(t, TIFFTAG_PHOTOMETRIC, photometric);
    TIFFSetField(t, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
}

bool writeRows(TIFF* t, const cv::Mat& picture) {
    for (int y = 0; y < picture.rows; ++y)
        if (TIFFWriteScanline(t, const_cast<uchar*>(picture.ptr(y)), uint32_t(y)) != 1)
            return false;
    return true;
}

/// A small colour picture of the mosaic, 512 px wide or more, one cell of four samples a pixel.
Image8 previewOf(const Image& mosaic) {
    const int step = std::max(2, mosaic.cols / 512 & ~1);
    Image8 out(mosaic.rows / step, mosaic.cols / step, CV_8UC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x)
            for (int c = 0; c < 3; ++c) {  // RG / GB
                const int v = mosaic.at<ushort>(y * step + (c == 2), x * step + (c > 0));
                const float light = (float(v) - kBlack) / (kWhite - kBlack) / kNeutral[c];
                out.at<cv::Vec3b>(y, x)[c] = uchar(fromLinear(light) >> 8);
            }
    return out;
}

bool writeTiles(TIFF* t, const Image& mosaic) {
    const Size tile = tileOf(mosaic);
    const int right = (tile.width - mosaic.cols % tile.width) % tile.width,
              bottom = (tile.height - mosaic.rows % tile.height) % tile.height;
    Image whole;
    cv::copyMakeBorder(mosaic, whole, 0, bottom, 0, right, cv::BORDER_REPLICATE);
    uint32_t number = 0;
    for (int y = 0; y < whole.rows; y += tile.height)
        for (int x = 0; x < whole.cols; x += tile.width) {
            std::string coded = losslessJpeg(whole(Rect({x, y}, tile)));
            const auto size = tmsize_t(coded.size());
            if (TIFFWriteRawTile(t, number++, coded.data(), size) != size) return false;
        }
    return true;
}

/// The first directory: a small picture, and what is told of the camera.
bool writePreview(TIFF* t, const Image& mosaic, const std::string& make, const std::string& model,
                  Orientation orientation) {
    // XYZ (D65) to linear sRGB, the simulated sensor's own primaries, before white balance.
    const std::array<float, 9> matrix{3.2405f * kNeutral[0],
                                      -1.5371f * kNeutral[0],
                                      -0.4985f * kNeutral[0],
                                      -0.9693f,
                                      1.8760f,
                                      0.0416f,
                                      0.0556f * kNeutral[2],
                                      -0.2040f * kNeutral[2],
                                      1.0572f * kNeutral[2]};
    const Image8 picture = previewOf(mosaic);
    setPicture(t, picture.size(), 3, 8, PHOTOMETRIC_RGB);
    const std::array<uint64_t, 1> mosaicsPlace{0};  // the library puts it in
    TIFFSetField(t, TIFFTAG_SUBFILETYPE, uint32_t(FILETYPE_REDUCEDIMAGE));
    TIFFSetField(t, TIFFTAG_COMPRESSION, COMPRESSION_NONE);
    TIFFSetField(t, TIFFTAG_ROWSPERSTRIP, uint32_t(picture.rows));
    TIFFSetField(t, TIFFTAG_SUBIFD, uint16_t(1), mosaicsPlace.data());
    TIFFSetField(t, TIFFTAG_ORIENTATION, uint16_t(orientation));
    TIFFSetField(t, TIFFTAG_MAKE, make.c_str());
    TIFFSetField(t, TIFFTAG_MODEL, model.c_str());
    TIFFSetField(t, TIFFTAG_UNIQUECAMERAMODEL, (make + " " + model).c_str());
    TIFFSetField(t, TIFFTAG_DNGVERSION, "\1\4\0\0");
    TIFFSetField(t, TIFFTAG_DNGBACKWARDVERSION, "\1\1\0\0");
    TIFFSetField(t, TIFFTAG_COLORMATRIX1, uint16_t(9), matrix.data());
    TIFFSetField(t, TIFFTAG_CALIBRATIONILLUMINANT1, uint16_t(21));  // D65
    TIFFSetField(t, TIFFTAG_ASSHOTNEUTRAL, uint16_t(3), kNeutral);
    return writeRows(t, picture) && TIFFWriteDirectory(t) == 1;
}

/// The second one: the samples.
bool writeMosaic(TIFF* t, const Image& mosaic, const DngCoding& coding) {
    const std::array<uint16_t, 2> repeat{2, 2};
    const std::array<uint8_t, 4> pattern{0, 1, 1, 2};
    const std::array<float, 1> black{kBlack};
    const auto white = uint32_t(kWhite);
    const bool plain = !coding.lossless;
    setPicture(t, mosaic.size(), 1, 16, PHOTOMETRIC_CFA);
    TIFFSetField(t, TIFFTAG_SUBFILETYPE, 0u);
    TIFFSetField(t, TIFFTAG_COMPRESSION, plain ? COMPRESSION_NONE : COMPRESSION_JPEG);
    TIFFSetField(t, TIFFTAG_CFAREPEATPATTERNDIM, repeat.data());
    TIFFSetField(t, TIFFTAG_CFAPATTERN, uint16_t(4), pattern.data());
    TIFFSetField(t, TIFFTAG_BLACKLEVEL, uint16_t(1), black.data());
    TIFFSetField(t, TIFFTAG_WHITELEVEL, uint16_t(1), &white);
    if (!coding.curve.empty())
        TIFFSetField(t, TIFFTAG_LINEARIZATIONTABLE, uint16_t(coding.curve.size()),
                     coding.curve.data());
    if (plain) {
        TIFFSetField(t, TIFFTAG_ROWSPERSTRIP, uint32_t(kStripRows));
    } else {
        const Size tile = tileOf(mosaic);
        TIFFSetField(t, TIFFTAG_TILEWIDTH, uint32_t(tile.width));
        TIFFSetField(t, TIFFTAG_TILELENGTH, uint32_t(tile.height));
    }
    return (plain ? writeRows(t, mosaic) : writeTiles(t, mosaic)) && TIFFWriteDirectory(t) == 1;
}

}  // namespace

Status writeDng(const std::filesystem::path& file, const Image& mosaic, const std::string& make,
                const std::string& model, Orientation orientation, const DngCoding& coding) {
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tif(
        TIFFOpen(file.c_str(), coding.bigEndian ? "wb" : "wl"), &TIFFClose);
    TIFF* t = tif.get();
    if (t && writePreview(t, mosaic, make, model, orientation) && writeMosaic(t, mosaic, coding))
        return {};
    return fail(Error::Kind::DiskFull, "it could not be written", file.string(),
                "Check the folder and the free space of the disk.");
}

}  // namespace gq::sim
