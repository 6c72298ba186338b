#include "core/carry/raw_pair.h"

#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/files/picture_reader.h"
#include "core/pixels/color.h"
#include "sim/dng_writer.h"
#include "sim/photo.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(480, 320);
const Rect kGrain(200, 120, 60, 60);

/// A pair of one dusty frame: the raw file, and a picture whose tone curve deepens shadows by half
/// (its light is the raw's to the power of 1.5).
class RawPairTest : public testing::Test {
  protected:
    void SetUp() override {
        gain = ImageF(kSize, CV_32F, cv::Scalar(0));
        cv::circle(gain, {230, 150}, 9, cv::Scalar(-0.3), cv::FILLED);
        cv::GaussianBlur(gain, gain, {}, 3);
        ImageF share;
        cv::exp(gain, share);
        ImageF light(kSize, CV_32FC3);
        for (int y = 0; y < kSize.height; ++y)
            for (int x = 0; x < kSize.width; ++x)
                light.at<cv::Vec3f>(y, x) = cv::Vec3f::all(0.25f + 0.0003f * float(x + y));
        EXPECT_TRUE(sim::writeDng(dir / "a.dng", sim::mosaic(light, share, {}), "Make", "Model",
                                  Orientation::Upright, {.lossless = true}));
        Image picture(kSize, CV_16UC3);
        for (int y = 0; y < kSize.height; ++y)
            for (int x = 0; x < kSize.width; ++x)
                for (int c = 0; c < 3; ++c)
                    picture.at<cv::Vec3w>(y, x)[c] = fromLinear(
                        std::pow(light.at<cv::Vec3f>(y, x)[c] * share.at<float>(y, x), 1.5f));
        testkit::write(dir / "a.tif", picture);
    }
    /// The picture's frame with its shadow divided out as the picture shows it.
    series::Frame pictureFrame() {
        auto f = *series::makeFrame(dir / "a.tif", "f");
        auto shade = std::make_shared<mend::KnownShade>();
        shade->box = kGrain;
        shade->logShare = 1.5 * gain(kGrain);
        series::MendEntry m{1, {disc({230, 150}, 18, kSize)}};
        m.mend.method = mend::Method::Unshade;
        m.mend.softness = 0;
        m.mend.shade = shade;
        f.mends.push_back(m);
        return f;
    }
    testkit::Scratch dir;
    ImageF gain;  ///< log share of light let through
};

TEST_F(RawPairTest, ShadowsAreAsDeepAsTheRawFileShowsThem) {
    const auto pair = rawPairOf(pictureFrame());
    ASSERT_TRUE(pair) << pair.error().message();
    const auto raw = files::readPicture(dir / "a.dng");
    ASSERT_TRUE(raw);
    const auto fitted = unshaded(pair->frame, raw->picture.pixels, pair->shadows);
    const auto& shade = fitted.mends.at(0).mend.shade;
    ASSERT_TRUE(shade);
    double got = 0, wanted = 0;
    cv::minMaxLoc(shade->logShare, &got);
    cv::minMaxLoc(gain, &wanted);
    EXPECT_NEAR(got / wanted, 1, 0.1) << "1.5 in the picture";
}

TEST_F(RawPairTest, ShadowsOfAPictureOfHalfTheSizeAreLaidOnTheRawFile) {
    Image half;
    cv::resize(files::readPicture(dir / "a.tif")->picture.pixels, half, kSize / 2, 0, 0,
               cv::INTER_AREA);
    testkit::write(dir / "a.tif", half);
    auto small = pictureFrame();
    auto& m = small.mends[0].mend;
    auto shade = std::make_shared<mend::KnownShade>();
    shade->box = Rect(kGrain.x / 2, kGrain.y / 2, kGrain.width / 2, kGrain.height / 2);
    cv::resize(m.shade->logShare, shade->logShare, shade->box.size(), 0, 0, cv::INTER_AREA);
    m.shade = shade;
    m.region = disc({115, 75}, 9, kSize / 2);
    const auto pair = rawPairOf(small);
    ASSERT_TRUE(pair) << pair.error().message();
    const auto raw = files::readPicture(dir / "a.dng");
    const auto fitted = unshaded(pair->frame, raw->picture.pixels, pair->shadows);
    const auto& found = fitted.mends.at(0).mend.shade;
    ASSERT_TRUE(found);
    double depth = 0;
    Point at;
    cv::minMaxLoc(found->logShare, &depth, nullptr, &at);
    EXPECT_LT(cv::norm(at + found->box.tl() - Point(230, 150)), 6);
    EXPECT_NEAR(depth, -0.3, 0.06);
}

TEST_F(RawPairTest, WhatIsShieldedInThePictureIsInTheRawFileToo) {
    auto frame = pictureFrame();
    auto guides = std::make_shared<find::Guides>();
    guides->shield = Mask(kSize / series::kGuideScale, CV_8U, cv::Scalar(0));
    guides->shield.colRange(0, 60) = 255;
    frame.guides = guides;
    auto half = frame;
    half.geometry.stored = kSize / 2;
    guides = std::make_shared<find::Guides>();
    guides->shield = Mask(kSize / 2 / series::kGuideScale, CV_8U, cv::Scalar(0));
    guides->shield.colRange(0, 30) = 255;
    half.guides = guides;
    for (const auto& f : {frame, half}) {
        const auto pair = rawPairOf(f);
        ASSERT_TRUE(pair) << pair.error().message();
        ASSERT_TRUE(pair->frame.guides);
        const auto shielded = pair->frame.guides->shieldedIn(Rect({0, 0}, kSize), kSize);
        EXPECT_TRUE(shielded.contains({200, 160}));
        EXPECT_FALSE(shielded.contains({280, 160}));
    }
}

TEST_F(RawPairTest, AFrameWithoutARawFileSaysSo) {
    std::filesystem::remove(dir / "a.dng");
    const auto pair = rawPairOf(pictureFrame());
    ASSERT_FALSE(pair);
    EXPECT_EQ(pair.error().kind, Error::Kind::NotFound);
    EXPECT_NE(pair.error().message().find("a.tif"), std::string::npos);
}

}  // namespace
}  // namespace gq::carry
