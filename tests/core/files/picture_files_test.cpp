#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <opencv2/imgproc.hpp>

#include "core/files/picture_reader.h"
#include "core/files/picture_writer.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/pyramid.h"
#include "sim/dng_writer.h"
#include "sim/photo.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::files {
namespace {

using testkit::bytesOf;
using testkit::equal;
using testkit::Scratch;

struct Case {
    Format format;
    int bits, channels, extra;
};

class RoundTrip : public testing::TestWithParam<Case> {};
INSTANTIATE_TEST_SUITE_P(Formats, RoundTrip,
                         testing::Values(Case{Format::Tiff8, 8, 3, 0}, Case{Format::Tiff8, 8, 1, 0},
                                         Case{Format::Tiff16, 16, 3, 0},
                                         Case{Format::Tiff16, 16, 1, 0},
                                         Case{Format::Tiff16, 16, 3, 1},
                                         Case{Format::Png8, 8, 3, 0}, Case{Format::Png8, 8, 3, 1},
                                         Case{Format::Png16, 16, 3, 0},
                                         Case{Format::Png16, 16, 1, 0}));

TEST_P(RoundTrip, KeepsEveryValueAndTheDepth) {
    const Case c = GetParam();
    Scratch dir;
    Image pixels = testkit::grass({83, 61});
    if (c.bits == 8) pixels = widen(narrow(pixels));
    LoadedPicture loaded;
    cv::extractChannel(pixels, loaded.extra, 1);
    if (c.extra == 0) loaded.extra.release();
    if (c.channels == 1) cv::extractChannel(pixels, pixels, 0);
    loaded.picture = {pixels, c.bits};
    loaded.pixelsPerMm = 23.6;
    const auto file = dir / ("p" + suffix(c.format));
    const auto done = writePicture(file, loaded, {.format = c.format});
    ASSERT_TRUE(done) << done.error().message();
    const auto back = readPicture(file);
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(back->picture.bits, c.bits);
    EXPECT_TRUE(equal(back->picture.pixels, pixels));
    EXPECT_TRUE(equal(back->extra, loaded.extra));
    EXPECT_NEAR(back->pixelsPerMm, 23.6, 0.1);
}

TEST(WritePicture, NeverWritesOntoItsOriginal) {
    Scratch dir;
    testkit::write(dir / "a.tif", testkit::sky({40, 30}));
    const std::string before = bytesOf(dir / "a.tif");
    const auto loaded = readPicture(dir / "a.tif");
    ASSERT_TRUE(loaded);
    std::filesystem::create_symlink(dir / "a.tif", dir / "b.tif");
    for (const char* target : {"a.tif", "b.tif"}) {
        const auto done = writePicture(dir / target, *loaded,
                                       {.format = Format::Tiff16, .replace = true}, dir / "a.tif");
        ASSERT_FALSE(done) << target;
        EXPECT_EQ(done.error().kind, Error::Kind::Refused);
    }
    EXPECT_EQ(bytesOf(dir / "a.tif"), before);
}

TEST(ReadPicture, NamesTheFileAndTheWayOut) {
    Scratch dir;
    std::ofstream(dir / "text.jpg") << "not a picture";
    for (const char* name : {"missing.jpg", "text.jpg", "missing.dng", "text.dng"}) {
        const auto r = readPicture(dir / name);
        ASSERT_FALSE(r) << name;
        EXPECT_NE(r.error().message().find(name), std::string::npos);
        EXPECT_FALSE(r.error().remedy.empty());
    }
}

TEST(ReadPicture, RefusesAPictureOverTheLimit) {
    Scratch dir;
    testkit::write(dir / "a.tif", testkit::sky({40, 30}));
    const auto r = readPicture(dir / "a.tif", {}, 1000);
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().kind, Error::Kind::TooLarge);
}

TEST(ReadPicture, RefusesATruncatedFileOfEachFormat) {
    Scratch dir;
    for (const auto& [name, bits] : {std::pair{"a.jpg", 8}, {"a.png", 8}, {"a.tif", 16}}) {
        testkit::write(dir / name, testkit::grass({200, 150}), bits);
        const std::string whole = bytesOf(dir / name);
        std::ofstream(dir / name, std::ios::binary) << whole.substr(0, whole.size() / 2);
        EXPECT_FALSE(readPicture(dir / name)) << name;
    }
}

TEST(ReadPicture, SurvivesMutatedFiles) {
    Scratch dir;
    int read = 0;
    for (const auto& [name, bits] : {std::pair{"a.jpg", 8}, {"a.png", 16}, {"a.tif", 16}}) {
        testkit::write(dir / name, testkit::grass({60, 40}), bits);
        const std::string whole = bytesOf(dir / name);
        for (int i = 0; i < 60; ++i) {
            std::string bad = whole;
            for (int k = 0; k < 4; ++k) bad[hash32(7, i, k) % bad.size()] = char(hash32(8, i, k));
            if (i % 3 == 0) bad.resize(hash32(9, i, 0) % bad.size());
            std::ofstream(dir / name, std::ios::binary) << bad;
            const auto r = readPicture(dir / name);
            if (r)
                ++read;
            else
                EXPECT_NE(r.error().message().find(name), std::string::npos);
        }
    }
    EXPECT_LT(read, 180) << "some of them cannot be read";
}

TEST(ReadInfo, CountsThePagesThatAreNoSmallCopiesOfTheFirst) {
    Scratch dir;
    const auto pagesOf = [&](const std::vector<Image>& pages) {
        testkit::writePages(dir / "p.tif", pages);
        const auto info = readInfo(dir / "p.tif");
        EXPECT_TRUE(info);
        EXPECT_EQ(pagesLeft(*info).has_value(), info->pages > 1);
        return info->pages;
    };
    const Image page = testkit::sky({120, 80}), copy = testkit::sky({60, 40});
    EXPECT_EQ(pagesOf({page}), 1);
    EXPECT_EQ(pagesOf({page, copy}), 1) << "a pyramid";
    EXPECT_EQ(pagesOf({page, Image(80, 120, CV_16U, cv::Scalar(0))}), 1) << "a mask";
    EXPECT_EQ(pagesOf({page, copy, page, page}), 3);
}

TEST(ReadHalf, IsTheMeanOfTwoByTwo) {
    Scratch dir;
    for (const auto& [name, bits, off] :
         {std::tuple{"a.jpg", 8, 700}, {"a.png", 16, 1}, {"a.tif", 16, 1}}) {
        testkit::write(dir / name, testkit::sky({401, 200}), bits);
        const auto whole = readPicture(dir / name);
        const auto half = readHalf(dir / name);
        ASSERT_TRUE(whole && half);
        const Rect common(0, 0, 200, 100);
        cv::Mat difference;
        cv::absdiff((*half)(common), halved(whole->picture.pixels), difference);
        EXPECT_LE(cv::mean(difference)[1], off) << name;
    }
    EXPECT_EQ(readHalf(dir / "none.jpg").error().kind, Error::Kind::NotFound);
    const std::string file = bytesOf(dir / "a.jpg");
    std::ofstream(dir / "a.jpg", std::ios::binary) << file.substr(0, file.size() / 2);
    EXPECT_EQ(readHalf(dir / "a.jpg").error().kind, Error::Kind::Unreadable);
}

TEST(ReadThumbnail, FitsTheSideAndKeepsTheShape) {
    Scratch dir;
    for (const auto& [name, bits] : {std::pair{"a.jpg", 8}, {"a.png", 16}}) {
        testkit::write(dir / name, testkit::sky({400, 200}), bits);
        const auto t = readThumbnail(dir / name, 100);
        ASSERT_TRUE(t);
        EXPECT_EQ(t->size(), Size(100, 50)) << name;
        EXPECT_NEAR(cv::mean(*t)[1], 0.59 * 255, 12) << name;
    }
}

/// A raw file of a grey that grows brighter to the right.
std::filesystem::path rawFile(const Scratch& dir, const Size& size) {
    ImageF light(size, CV_32FC3);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
            light.at<cv::Vec3f>(y, x) = cv::Vec3f::all(0.1f + 0.4f * float(x) / float(size.width));
    EXPECT_TRUE(sim::writeDng(dir / "a.dng", sim::mosaic(light, {}, {}), "Make", "Model",
                              Orientation::Upright, {.lossless = true}));
    return dir / "a.dng";
}

TEST(ReadHalf, OfARawFileIsTheSamePictureAtHalfTheSize) {
    Scratch dir;
    const auto file = rawFile(dir, {600, 400});
    const auto whole = readPicture(file);
    const auto half = readHalf(file);
    ASSERT_TRUE(whole && half);
    const Rect inner(4, 4, 292, 192);
    EXPECT_EQ(half->size(), Size(300, 200));
    EXPECT_LT(cv::norm((*half)(inner), halved(whole->picture.pixels)(inner), cv::NORM_L1) /
                  double(inner.area() * 3),
              500);
}

TEST(ReadThumbnail, TakesTheRawFilesOwnPreviewWhereThatIsLargeEnough) {
    Scratch dir;
    const auto file = rawFile(dir, {1100, 800});
    const auto developed = readPicture(file);
    ASSERT_TRUE(developed);
    const auto quick = readThumbnail(file, 320), large = readThumbnail(file, 800);
    ASSERT_TRUE(quick && large);
    EXPECT_EQ(quick->cols, 320);
    EXPECT_EQ(large->cols, 550) << "half of the samples; the preview is smaller";
    Image8 expected;
    cv::resize(narrow(developed->picture.pixels), expected, quick->size(), 0, 0, cv::INTER_AREA);
    EXPECT_LT(cv::norm(*quick, expected, cv::NORM_L1) / double(expected.total() * 3), 4);
    // No sample is needed for it.
    std::string bytes = bytesOf(file);
    std::fill(bytes.end() - long(bytes.size() / 2), bytes.end() - long(bytes.size() / 4), '\0');
    std::ofstream(file, std::ios::binary) << bytes;
    const auto again = readThumbnail(file, 320);
    ASSERT_TRUE(again);
    EXPECT_TRUE(equal(*again, *quick));
}

}  // namespace
}  // namespace gq::files
