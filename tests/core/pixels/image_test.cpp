#include "core/pixels/image.h"

#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"
#include "core/pixels/pyramid.h"
#include "tests/testkit/pictures.h"

namespace gq {
namespace {

TEST(Narrow, GivesBackEveryWidenedValue) {
    Image8 all(1, 256, CV_8U);
    for (int i = 0; i < 256; ++i) all.at<uchar>(i) = uchar(i);
    EXPECT_TRUE(testkit::equal(narrow(widen(all)), all));
}

TEST(Narrow, RoundsToTheNearestCode) {
    for (int v = 0; v < 65536; v += 7) {
        Image one(1, 1, CV_16U, cv::Scalar(v));
        EXPECT_EQ(narrow(one).at<uchar>(0), int(std::lround(v / 257.0)));
    }
}

TEST(Colour, RoundTripsLinearLightWithinOneCode) {
    for (int v = 0; v < 65536; v += 13) EXPECT_NEAR(fromLinear(toLinear(ushort(v))), v, 1);
}

TEST(LogLuminance, AgreesWithTheLibraryLogarithm) {
    for (int v = 0; v < 65536; v += 211) {
        const Image one(1, 1, CV_16U, cv::Scalar(v));
        EXPECT_NEAR(logLuminance(one).at<float>(0), std::log(toLinear(ushort(v)) + 0.002f), 2e-4f);
    }
}

TEST(LogLuminance, TurnsADimmingIntoAnOffset) {
    const Image sky = testkit::sky({64, 64}), dim = testkit::dusty(sky, {{{32, 32}, 400, 0.2f}});
    const ImageF d = logLuminance(sky) - logLuminance(dim);
    EXPECT_NEAR(cv::mean(d(Rect(24, 24, 16, 16)))[0], -std::log(0.8), 0.01);
}

TEST(Pyramid, UpdatesOnlyWhatChanged) {
    Image pixels = testkit::sky({901, 700});
    Pyramid kept = makePyramid(pixels);
    const Rect box(333, 221, 57, 90);
    pixels(box).setTo(cv::Scalar::all(9000));
    update(kept, pixels, box);
    const Pyramid fresh = makePyramid(pixels);
    ASSERT_EQ(kept.levels.size(), fresh.levels.size());
    for (size_t i = 0; i < fresh.levels.size(); ++i)
        EXPECT_TRUE(testkit::equal(kept.levels[i], fresh.levels[i])) << "level " << i;
}

TEST(Pyramid, NeverBlursBelowTheScreensPixels) {
    const Pyramid p = makePyramid(testkit::sky({1024, 1024}));
    EXPECT_EQ(p.levelFor(2.0), 0);
    EXPECT_EQ(p.levelFor(0.6), 0);
    EXPECT_EQ(p.levelFor(0.5), 1);
    EXPECT_EQ(p.levelFor(0.01), int(p.levels.size()) - 1);
}

TEST(HashNormal, HasZeroMeanAndUnitDeviation) {
    double sum = 0, square = 0;
    for (int i = 0; i < 200000; ++i) {
        const double v = double(hashNormal(3, i % 1000, i / 1000));
        sum += v;
        square += v * v;
    }
    EXPECT_NEAR(sum / 200000, 0, 0.01);
    EXPECT_NEAR(std::sqrt(square / 200000), 1, 0.01);
}

TEST(ForEach, StopsWhenAsked) {
    std::stop_source stop;
    stop.request_stop();
    int ran = 0;
    EXPECT_FALSE(forEach(
        1000, [&](int) { ++ran; }, stop.get_token()));
    EXPECT_EQ(ran, 0);
}

}  // namespace
}  // namespace gq
