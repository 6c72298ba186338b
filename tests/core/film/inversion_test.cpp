#include "core/film/inversion.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/film/film_base.h"
#include "core/film/infrared.h"
#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "sim/film.h"
#include "sim/instrument.h"
#include "tests/testkit/pictures.h"

namespace gq::film {
namespace {

const Size kSize(480, 320);
constexpr int kRim = 14;

Image scanOf(sim::Stock stock) {
    return sim::scanned(sim::exposed(sim::renderInstrument(kSize, 4), stock, 1), stock, kRim);
}

TEST(Inversion, BringsTheSceneBackInItsOrderOfTones) {
    const Image scan = scanOf(sim::Stock::Colour);
    const auto settings = fitted(scan, findBase(scan)->light);
    EXPECT_FALSE(settings.monochrome);
    const Image positive = inverted(scan, settings);
    const ImageF light = sim::renderInstrument(kSize, 4);
    // Places far apart in the scene's light keep their order, nearly always.
    int right = 0, all = 0;
    for (int i = 0; i < 4000; ++i) {
        const Point a(int(hash32(1, i, 0) % 480), int(hash32(1, i, 1) % 320)),
            b(int(hash32(1, i, 2) % 480), int(hash32(1, i, 3) % 320));
        const float la = light.at<cv::Vec3f>(a)[1], lb = light.at<cv::Vec3f>(b)[1];
        if (la < 2 * lb) continue;
        ++all;
        const Point rim(kRim, kRim);
        right += positive.at<cv::Vec<ushort, 3>>(a + rim)[1] >
                 positive.at<cv::Vec<ushort, 3>>(b + rim)[1];
    }
    ASSERT_GT(all, 500);
    EXPECT_GT(double(right) / all, 0.97);
}

TEST(Inversion, TakesSilverFilmForMonochrome) {
    const Image scan = scanOf(sim::Stock::Silver);
    const auto settings = fitted(scan, findBase(scan)->light);
    EXPECT_TRUE(settings.monochrome);
    const auto v = inverted(scan, settings).at<cv::Vec<ushort, 3>>(100, 100);
    EXPECT_EQ(v[0], v[1]);
    EXPECT_EQ(v[1], v[2]);
}

TEST(Inversion, KeepsAPictureOfOneColourInIt) {
    ImageF light = sim::renderInstrument(kSize, 4);
    light = light.mul(cv::Scalar(0.25, 0.5, 1));
    const Image scan =
        sim::scanned(sim::exposed(light, sim::Stock::Colour, 1), sim::Stock::Colour, kRim);
    const Image positive = inverted(scan, fitted(scan, findBase(scan)->light));
    const cv::Scalar mean = cv::mean(positive);
    EXPECT_GT(mean[2], 1.15 * mean[1]);
    EXPECT_GT(mean[1], 1.05 * mean[0]);
}

TEST(Inversion, OfEightBitsAgreesWithThatOfSixteen) {
    const Image scan = scanOf(sim::Stock::Colour);
    const auto settings = fitted(scan, findBase(scan)->light);
    const Image8 small = narrow(scan);
    const Image8 a = inverted(small, settings), b = narrow(inverted(widen(small), settings));
    EXPECT_LE(cv::norm(a, b, cv::NORM_INF), 1);
}

/// The scan with dust that holds back all light, and the infrared plane of it.
Image withDust(Image& scan, float leak) {
    const std::vector<testkit::Spot> dust{{{120, 90}, 5, 0.9f}, {{300, 200}, 8, 0.9f}};
    Image infrared(scan.size(), CV_16U);
    const Image dusty = testkit::dusty(scan, dust);
    for (int y = 0; y < scan.rows; ++y)
        for (int x = 0; x < scan.cols; ++x) {
            const float film = toLinear(scan.at<cv::Vec<ushort, 3>>(y, x)[0]) + 1e-4f;
            const float gain = toLinear(dusty.at<cv::Vec<ushort, 3>>(y, x)[0]) / film;
            infrared.at<ushort>(y, x) =
                fromLinear(0.85f * std::min(gain, 1.0f) * std::pow(film, leak));
        }
    scan = dusty;
    return infrared;
}

TEST(Infrared, TellsDustFromThePictureThatLeaksIn) {
    Image scan = scanOf(sim::Stock::Colour);
    const Image infrared = withDust(scan, 0.07f);
    const auto dust = infraredDust(scan, infrared);
    ASSERT_TRUE(dust.useless.empty()) << dust.useless;
    EXPECT_GT(dust.depth.at<float>(90, 120), 0.5f);
    EXPECT_GT(dust.depth.at<float>(200, 300), 0.5f);
    Mask far(scan.size(), CV_8U, cv::Scalar(255));
    cv::circle(far, {120, 90}, 24, cv::Scalar(0), -1);
    cv::circle(far, {300, 200}, 30, cv::Scalar(0), -1);
    double most = 0;
    cv::minMaxLoc(dust.depth, nullptr, &most, nullptr, nullptr, far);
    EXPECT_LT(most, 0.08) << "the picture's own detail";
}

TEST(Infrared, DoesNotTakeCrispEdgesForDustWhereItsOwnFocusIsElsewhere) {
    Image scan = scanOf(sim::Stock::Colour);
    for (int x = 40; x < scan.cols - 60; x += 36)  // black plates, small and large
        cv::rectangle(scan, Rect(x, 140, 4 + x / 24, 4 + x / 20), cv::Scalar::all(600), -1);
    Image infrared = withDust(scan, 0.07f);
    const cv::Matx23f shift(1, 0, 1.3f, 0, 1, -0.7f);
    cv::warpAffine(infrared, infrared, shift, infrared.size(), cv::INTER_LINEAR,
                   cv::BORDER_REPLICATE);
    cv::GaussianBlur(infrared, infrared, {}, 1.0);
    const auto dust = infraredDust(scan, infrared);
    ASSERT_TRUE(dust.useless.empty()) << dust.useless;
    EXPECT_NEAR(dust.shift.x, 1.3, 0.5);
    const ImageF z = dust.depth / dust.noise;
    EXPECT_GT(z.at<float>(90, 120), 8);
    EXPECT_GT(z.at<float>(200, 300), 8);
    double most = 0;
    const Rect plates(30, 130, scan.cols - 80, 50);
    cv::minMaxLoc(z(plates), nullptr, &most);
    EXPECT_LT(most, 6) << "edges of the picture";
}

TEST(Infrared, SaysThatSilverFilmMakesItUseless) {
    Image scan = scanOf(sim::Stock::Silver);
    const Image infrared = withDust(scan, 0.85f);
    EXPECT_NE(infraredDust(scan, infrared).useless.find("silver"), std::string::npos);
    EXPECT_FALSE(infraredDust(scan, {}).useless.empty());
}

TEST(Infrared, TellsSilverFromDyesInThickAndThinNegatives) {
    for (const double light : {1.0, 0.3, 0.1}) {  // that comes through the thinnest place
        Image scan = testkit::grass(kSize);
        for (auto& v : cv::Mat_<cv::Vec<ushort, 3>>(scan))
            for (int c = 0; c < 3; ++c)
                v[c] = fromLinear(float(light) * (0.2f + 0.8f * toLinear(v[c])));
        const Image dyes = withDust(scan, 0.1f), silver = withDust(scan, 0.9f);
        EXPECT_EQ(infraredDust(scan, dyes).useless, "") << light;
        EXPECT_NE(infraredDust(scan, silver).useless, "") << light;
    }
}

}  // namespace
}  // namespace gq::film
