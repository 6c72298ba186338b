#include "core/files/raw_mosaic.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <exiv2/exiv2.hpp>
#include <fstream>

#include "core/files/dng_digest.h"
#include "core/files/metadata.h"
#include "core/files/picture_reader.h"
#include "sim/dng_writer.h"
#include "sim/photo.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::files {
namespace {

const Size kSize(128, 96);
const Rect kShaded(30, 20, 40, 30);

/// A flat grey seen through `share` of its light in the shaded box.
Image mosaicOf(float share) {
    const ImageF light(kSize, CV_32FC3, cv::Scalar::all(0.4));
    ImageF gain(kSize, CV_32F, cv::Scalar(1));
    gain(kShaded).setTo(share);
    return sim::mosaic(light, gain, {.shot = 0, .read = 0});
}

class RawMosaic : public testing::Test {
  protected:
    void SetUp() override {
        write("in.dng", mosaicOf(0.7f));
        write("clean.dng", mosaicOf(1));
        original = testkit::bytesOf(dir / "in.dng");
    }
    void write(const char* name, const Image& mosaic, const sim::DngCoding& coding = {}) {
        ASSERT_TRUE(
            sim::writeDng(dir / name, mosaic, "Make", "Model", Orientation::Turn90, coding));
    }
    Status divided(const std::filesystem::path& from, const std::filesystem::path& to) {
        const ImageF share(kShaded.size(), CV_32F, cv::Scalar(std::log(0.7)));
        return writeUnshadedDng(from, to, {{kShaded, share}}, false);
    }
    /// out.dng as clean.dng, but for `most` of 65535.
    void expectClean(double most) {
        const auto out = readPicture(dir / "out.dng"), clean = readPicture(dir / "clean.dng");
        ASSERT_TRUE(out && clean);
        EXPECT_LE(cv::norm(out->picture.pixels, clean->picture.pixels, cv::NORM_INF), most);
    }
    testkit::Scratch dir;
    std::string original;
};

TEST_F(RawMosaic, ComesBackAsIfNoDustHadBeenThere) {
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    expectClean(40);  // a rounded sample
    EXPECT_EQ(testkit::bytesOf(dir / "in.dng"), original);
}

TEST_F(RawMosaic, KeepsEverythingElseToTheByte) {
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    const std::string out = testkit::bytesOf(dir / "out.dng");
    ASSERT_EQ(out.size(), original.size());
    size_t changed = 0;
    for (size_t i = 0; i < out.size(); ++i) changed += out[i] != original[i];
    EXPECT_GT(changed, 0u);
    EXPECT_LE(changed, size_t(kShaded.area()) * 2);
    const auto info = readInfo(dir / "out.dng");
    ASSERT_TRUE(info);
    EXPECT_EQ(info->orientation, Orientation::Turn90);
}

TEST_F(RawMosaic, RefusesWhatIsNoDngAndWhatIsThere) {
    testkit::write(dir / "a.jpg", testkit::sky(kSize), 8);
    const auto wrong = divided(dir / "a.jpg", dir / "b.dng");
    ASSERT_FALSE(wrong);
    EXPECT_EQ(wrong.error().kind, Error::Kind::Unsupported);
    EXPECT_FALSE(std::filesystem::exists(dir / "b.dng")) << "nothing is half written";
    EXPECT_EQ(divided(dir / "in.dng", dir / "clean.dng").error().kind, Error::Kind::Refused);
}

TEST_F(RawMosaic, NeverWritesOntoTheOriginal) {
    const ImageF share(kShaded.size(), CV_32F, cv::Scalar(std::log(0.7)));
    const auto done = writeUnshadedDng(dir / "in.dng", dir / "in.dng", {{kShaded, share}}, true);
    ASSERT_FALSE(done);
    EXPECT_EQ(done.error().kind, Error::Kind::Refused);
    EXPECT_EQ(testkit::bytesOf(dir / "in.dng"), original);
}

/// A DNG with a further tag.
void tag(const std::filesystem::path& file, const char* key, const std::string& value) {
    const auto image = Exiv2::ImageFactory::open(file.string());
    image->readMetadata();
    image->exifData()[key].setValue(value);
    image->writeMetadata();
}

TEST_F(RawMosaic, ClearsTheDigestOfSamplesThatChanged) {
    const char* key = "Exif.Image.RawImageDigest";
    tag(dir / "in.dng", key, "1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16");
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    const auto image = Exiv2::ImageFactory::open((dir / "out.dng").string());
    image->readMetadata();
    EXPECT_EQ(image->exifData()[key].toString(), "0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0");
    EXPECT_EQ(image->exifData()["Exif.Image.Model"].toString(), "Model");
}

/// A TIFF of the other byte order with nothing but a digest, said to lie at `at`.
std::string onlyDigest(char at) {
    using namespace std::string_literals;
    return "MM\0*\0\0\0\x08\0\x01\xC7\xA7\0\x01\0\0\0\x10\0\0\0"s + at + "\0\0\0\0"s +
           std::string(16, 'd');
}

TEST_F(RawMosaic, ClearsDigestsInEitherByteOrderAndWritesNothingBeyondTheFile) {
    const auto cleared = [&](char at) {
        const auto file = dir / "digest.dng";
        std::ofstream(file, std::ios::binary) << onlyDigest(at);
        EXPECT_TRUE(clearRawDigests(file));
        return testkit::bytesOf(file);
    };
    const std::string whole = onlyDigest(26);
    EXPECT_EQ(cleared(26), whole.substr(0, 26) + std::string(16, '\0'));
    EXPECT_EQ(cleared(27), onlyDigest(27));
}

/// The value of a tag, as text.
std::string tagged(const std::filesystem::path& file, const char* key) {
    const auto image = Exiv2::ImageFactory::open(file.string());
    image->readMetadata();
    return image->exifData()[key].toString();
}

TEST_F(RawMosaic, CompressedSamplesBecomePlainOnesWithTheSameTags) {
    write("in.dng", mosaicOf(0.7f), {.bigEndian = true, .lossless = true});
    tag(dir / "in.dng", "Exif.Image.Artist", "Wren Hallow");
    tag(dir / "in.dng", "Exif.Image.0xfde8", "of no standard");
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    expectClean(40);
    EXPECT_EQ(readInfo(dir / "out.dng")->orientation, Orientation::Turn90);
    for (const char* key : {"Exif.Image.Artist", "Exif.Image.0xfde8", "Exif.Image.AsShotNeutral",
                            "Exif.SubImage1.WhiteLevel", "Exif.Image.ImageWidth"})
        EXPECT_EQ(tagged(dir / "out.dng", key), tagged(dir / "in.dng", key)) << key;
    EXPECT_EQ(tagged(dir / "out.dng", "Exif.SubImage1.Compression"), "1");
    EXPECT_EQ(tagged(dir / "out.dng", "Exif.SubImage1.TileWidth"), "") << "strips now";
}

TEST_F(RawMosaic, CompressedSamplesThatEndTheFileAreNotKept) {
    write("in.dng", mosaicOf(0.7f), {.lossless = true});
    tag(dir / "in.dng", "Exif.Image.Artist", "Wren Hallow");  // moves the tags before the samples
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    EXPECT_LT(testkit::bytesOf(dir / "out.dng").size(), original.size() + 1024)
        << "little more than one of plain samples";
}

TEST_F(RawMosaic, SamplesCodedByACurveBecomePlainOnes) {
    std::vector<uint16_t> curve;
    for (int i = 0; i < 1024; ++i) curve.push_back(uint16_t(i * i / 64));
    Image coded = mosaicOf(0.7f);
    for (auto& v : cv::Mat_<uint16_t>(coded))
        v = uint16_t(std::lower_bound(curve.begin(), curve.end(), v) - curve.begin());
    write("in.dng", coded, {.curve = curve});
    ASSERT_TRUE(divided(dir / "in.dng", dir / "out.dng"));
    expectClean(600);  // the curve's steps are 32 of 16383 at most
}

}  // namespace
}  // namespace gq::files
