#include "core/files/metadata.h"

#include <gtest/gtest.h>

#include <tiffio.h>

#include <exiv2/exiv2.hpp>
#include <memory>

#include "core/files/picture_writer.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::files {
namespace {

using testkit::Scratch;

TEST(Metadata, TravelsFromJpegToEveryFormat) {
    Scratch dir;
    testkit::write(dir / "a.jpg", testkit::sky({64, 48}), 8, Orientation::Turn90);
    {
        auto image = Exiv2::ImageFactory::open((dir / "a.jpg").string());
        image->readMetadata();
        image->xmpData()["Xmp.dc.subject"] = "cloud";
        image->iptcData()["Iptc.Application2.Caption"] = "Marram Head";
        image->writeMetadata();
    }
    auto loaded = readPicture(dir / "a.jpg");
    ASSERT_TRUE(loaded);
    for (const Format f : allFormats()) {
        const auto target = dir / (formatWord(f) + suffix(f));
        const auto done = writePicture(target, *loaded, {.format = f}, dir / "a.jpg");
        ASSERT_TRUE(done) << done.error().message();
        const auto info = readInfo(target);
        ASSERT_TRUE(info);
        EXPECT_EQ(info->orientation, Orientation::Turn90) << formatWord(f);
        EXPECT_EQ(info->camera, "Sandpiper Test") << formatWord(f);
        EXPECT_DOUBLE_EQ(info->aperture, 11) << formatWord(f);
        EXPECT_EQ(info->size, Size(64, 48));
        auto image = Exiv2::ImageFactory::open(target.string());
        image->readMetadata();
        EXPECT_EQ(image->xmpData()["Xmp.dc.subject"].toString(), "cloud") << formatWord(f);
        EXPECT_EQ(image->iptcData()["Iptc.Application2.Caption"].toString(), "Marram Head")
            << formatWord(f);
    }
}

TEST(Metadata, TravelsFromABigTiff) {
    const Scratch dir;
    const Image picture = testkit::sky({64, 48});
    {
        const std::unique_ptr<TIFF, decltype(&TIFFClose)> t(TIFFOpen((dir / "a.tif").c_str(), "w8"),
                                                            &TIFFClose);
        TIFFSetField(t.get(), TIFFTAG_IMAGEWIDTH, 64u);
        TIFFSetField(t.get(), TIFFTAG_IMAGELENGTH, 48u);
        TIFFSetField(t.get(), TIFFTAG_SAMPLESPERPIXEL, 3);
        TIFFSetField(t.get(), TIFFTAG_BITSPERSAMPLE, 16);
        TIFFSetField(t.get(), TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_RGB);
        TIFFSetField(t.get(), TIFFTAG_PLANARCONFIG, PLANARCONFIG_CONTIG);
        TIFFSetField(t.get(), TIFFTAG_ROWSPERSTRIP, 48u);
        TIFFSetField(t.get(), TIFFTAG_ORIENTATION, 6);
        TIFFSetField(t.get(), TIFFTAG_MODEL, "Sandpiper Flat");
        TIFFSetField(t.get(), TIFFTAG_RESOLUTIONUNIT, RESUNIT_INCH);
        TIFFSetField(t.get(), TIFFTAG_XRESOLUTION, 600.0);
        TIFFSetField(t.get(), TIFFTAG_YRESOLUTION, 600.0);
        const std::string xmp =
            "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF "
            "xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'><rdf:Description "
            "xmlns:dc='http://purl.org/dc/elements/1.1/' "
            "dc:source='Keeper'/></rdf:RDF></x:xmpmeta>";
        TIFFSetField(t.get(), TIFFTAG_XMLPACKET, uint32_t(xmp.size()), xmp.data());
        for (int y = 0; y < picture.rows; ++y) {
            Image row = picture.row(y).clone();
            ASSERT_EQ(TIFFWriteScanline(t.get(), row.data, uint32_t(y), 0), 1);
        }
        ASSERT_EQ(TIFFWriteDirectory(t.get()), 1);
        uint64_t exposure = 0;
        ASSERT_EQ(TIFFCreateEXIFDirectory(t.get()), 0);
        TIFFSetField(t.get(), EXIFTAG_FNUMBER, 11.0);
        TIFFSetField(t.get(), EXIFTAG_EXPOSURETIME, 0.004);
        TIFFSetField(t.get(), EXIFTAG_DATETIMEORIGINAL, "2026:05:14 10:22:31");
        ASSERT_EQ(TIFFWriteCustomDirectory(t.get(), &exposure), 1);
        ASSERT_EQ(TIFFSetDirectory(t.get(), 0), 1);
        TIFFSetField(t.get(), TIFFTAG_EXIFIFD, exposure);
        ASSERT_EQ(TIFFRewriteDirectory(t.get()), 1);
    }
    const auto loaded = readPicture(dir / "a.tif");
    ASSERT_TRUE(loaded) << loaded.error().message();
    for (const Format f : allFormats()) {
        const auto target = dir / (formatWord(f) + suffix(f));
        const auto done = writePicture(target, *loaded, {.format = f}, dir / "a.tif");
        ASSERT_TRUE(done) << done.error().message();
        const auto info = readInfo(target);
        ASSERT_TRUE(info);
        EXPECT_EQ(info->orientation, Orientation::Turn90) << formatWord(f);
        EXPECT_EQ(info->camera, "Sandpiper Flat") << formatWord(f);
        EXPECT_NEAR(info->pixelsPerInch, 600, 1) << formatWord(f);
        EXPECT_DOUBLE_EQ(info->aperture, 11) << formatWord(f);
        EXPECT_NEAR(info->exposureTime, 0.004, 1e-6) << formatWord(f);
        EXPECT_EQ(info->taken, "2026:05:14 10:22:31") << formatWord(f);
        auto image = Exiv2::ImageFactory::open(target.string());
        image->readMetadata();
        EXPECT_EQ(image->xmpData()["Xmp.dc.source"].toString(), "Keeper") << formatWord(f);
    }
}

TEST(Metadata, KeepsTheColourProfileByteForByte) {
    Scratch dir;
    LoadedPicture loaded;
    loaded.picture = {testkit::sky({32, 32}), 16};
    // A raw file's sRGB profile is at hand; any bytes of a true profile would do.
    const auto raw = testkit::demoFolder() / "cloud-watch" / "CW-001.dng";
    if (!std::filesystem::exists(raw)) GTEST_SKIP() << "needs the demo series";
    const auto developed = readPicture(raw);
    ASSERT_TRUE(developed) << developed.error().message();
    loaded.profile = developed->profile;
    ASSERT_GT(loaded.profile.size(), 200u);
    for (const Format f : allFormats()) {
        const auto target = dir / (formatWord(f) + suffix(f));
        ASSERT_TRUE(writePicture(target, loaded, {.format = f}));
        EXPECT_EQ(readPicture(target)->profile, loaded.profile) << formatWord(f);
    }
}

}  // namespace
}  // namespace gq::files
