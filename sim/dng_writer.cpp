#include "sim/dng_writer.h"

#include <tiffio.h>

#include <array>
#include <memory>

#include "sim/photo.h"

namespace gq::sim {

Status writeDng(const std::filesystem::path& file, const Image& mosaic, const std::string& make,
                const std::string& model, Orientation orientation) {
    const auto bad = [&] {
        return fail(Error::Kind::DiskFull, "it could not be written", file.string(),
                    "Check the folder and the free space of the disk.");
    };
    const std::unique_ptr<TIFF, decltype(&TIFFClose)> tif(TIFFOpen(file.c_str(), "w"), &TIFFClose);
    if (!tif) return bad();
    TIFF* t = tif.get();
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
    const std::array<uint16_t, 2> repeat{2, 2};
    const std::array<uint8_t, 4> pattern{0, 1, 1, 2};
    const std::array<float, 1> black{512};
    const uint32_t white = 16383;
    TIFFSetField(t, TIFFTAG_SUBFILETYPE, 0u);
    TIFFSetField(t, TIFFTAG_IMAGEWIDTH, uint32_t(mosaic.cols));
    TIFFSetField(t, TIFFTAG_IMAGELENGTH, uint32_t(mosaic.rows));
    TIFFSetField(t, TIFFTAG_BITSPERSAMPLE, 16);
    TIFFSetField(t, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(t, TIFFTAG_COMPRESSION, COMPRESSION_NONE);
    TIFFSetField(t, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_CFA);
    TIFFSetField(t, TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
    TIFFSetField(t, TIFFTAG_ROWSPERSTRIP, 64u);
    TIFFSetField(t, TIFFTAG_ORIENTATION, uint16_t(orientation));
    TIFFSetField(t, TIFFTAG_MAKE, make.c_str());
    TIFFSetField(t, TIFFTAG_MODEL, model.c_str());
    TIFFSetField(t, TIFFTAG_UNIQUECAMERAMODEL, (make + " " + model).c_str());
    TIFFSetField(t, TIFFTAG_DNGVERSION, "\1\4\0\0");
    TIFFSetField(t, TIFFTAG_DNGBACKWARDVERSION, "\1\1\0\0");
    TIFFSetField(t, TIFFTAG_CFAREPEATPATTERNDIM, repeat.data());
    TIFFSetField(t, TIFFTAG_CFAPATTERN, uint16_t(4), pattern.data());
    TIFFSetField(t, TIFFTAG_BLACKLEVEL, uint16_t(1), black.data());
    TIFFSetField(t, TIFFTAG_WHITELEVEL, uint16_t(1), &white);
    TIFFSetField(t, TIFFTAG_COLORMATRIX1, uint16_t(9), matrix.data());
    TIFFSetField(t, TIFFTAG_CALIBRATIONILLUMINANT1, uint16_t(21));  // D65
    TIFFSetField(t, TIFFTAG_ASSHOTNEUTRAL, uint16_t(3), kNeutral);
    for (int y = 0; y < mosaic.rows; ++y)
        if (TIFFWriteScanline(t, const_cast<uchar*>(mosaic.ptr(y)), uint32_t(y)) != 1) return bad();
    if (TIFFWriteDirectory(t) != 1) return bad();
    return {};
}

}  // namespace gq::sim
