#include "core/carry/sheet.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::carry {
namespace {

const Size kSize(400, 300);
const Rect kBox(150, 100, 100, 90);
const PointF kMiddle(200, 145);

FrameGeometry upright() {
    FrameGeometry g;
    g.stored = kSize;
    return g;
}

Mask cover() {
    Mask out = Mask::zeros(kBox.size(), CV_8U);
    cv::circle(out, Point(kMiddle) - kBox.tl(), 24, 255, -1);
    return out;
}

double inside(const Departure& d, int radius) {
    Mask middle = Mask::zeros(d.logs.size(), CV_8U);
    cv::circle(middle, {d.logs.cols / 2, d.logs.rows / 2}, radius, 255, -1);
    return cv::mean(d.logs, middle)[0];
}

TEST(DepartureAt, IsNothingInACleanSky) {
    const auto d = departureAt(testkit::sky(kSize), upright(), kBox, cover());
    ASSERT_TRUE(d.told);
    EXPECT_EQ(d.logs.size(), kBox.size());
    EXPECT_NEAR(inside(d, 20), 0, 0.003);
    EXPECT_LT(d.noise, 0.02f);
}

TEST(DepartureAt, IsTheLogOfTheLightThatComesThrough) {
    const Image worn = testkit::dusty(testkit::sky(kSize), {{kMiddle, 14, 0.3f}});
    const auto d = departureAt(worn, upright(), kBox, cover());
    ASSERT_TRUE(d.told);
    EXPECT_NEAR(inside(d, 8), std::log(0.7), 0.02);
}

TEST(DepartureAt, IsToldByTheColoursThatAreNotClipped) {
    Image clean = testkit::sky(kSize);
    for (int i = 0; i < int(clean.total()); ++i) {  // red far over what the camera holds
        auto& red = clean.ptr<ushort>(i / kSize.width)[3 * (i % kSize.width)];
        red = 65535;
    }
    Image worn = testkit::dusty(clean, {{kMiddle, 14, 0.3f}});
    for (int i = 0; i < int(worn.total()); ++i)
        worn.ptr<ushort>(i / kSize.width)[3 * (i % kSize.width)] = 65535;
    const auto d = departureAt(worn, upright(), kBox, cover());
    ASSERT_TRUE(d.told);
    EXPECT_NEAR(inside(d, 8), std::log(0.7), 0.02);
    worn.setTo(cv::Scalar::all(65535));
    EXPECT_FALSE(departureAt(worn, upright(), kBox, cover()).told);
}

TEST(DepartureAt, TellsCalmGroundFromBusyGround) {
    Image pixels = testkit::sky(kSize);
    const Rect right(int(kMiddle.x), 0, kSize.width - int(kMiddle.x), kSize.height);
    testkit::grass(kSize, 3)(right).copyTo(pixels(right));
    const auto d = departureAt(pixels, upright(), kBox, cover());
    ASSERT_TRUE(d.told);
    const ImageF near = spreadNear(d);
    const int middle = near.rows / 2;
    EXPECT_GT(near.at<float>(middle, near.cols - 8), 1.3f * near.at<float>(middle, 8));
}

TEST(DepartureAt, IsReadInSensorCoordinatesHoweverTheFileIsTurned) {
    const Image worn = testkit::dusty(testkit::sky(kSize), {{{170, 120}, 6, 0.4f}});
    Image turned;
    cv::rotate(worn, turned, cv::ROTATE_90_CLOCKWISE);
    FrameGeometry g;
    g.stored = turned.size();
    g.storedTurn = Orientation::Turn90;
    const auto straight = departureAt(worn, upright(), kBox, cover());
    for (const Orientation turn : {Orientation::Turn90, Orientation::Turn270}) {
        g.storedTurn = turn;
        if (g.sensorSize() != kSize) continue;
        const auto d = departureAt(turned, g, kBox, cover());
        ASSERT_TRUE(d.told);
        if (cv::norm(d.logs, straight.logs, cv::NORM_INF) < 0.02) return;
    }
    FAIL() << "neither quarter turn brings the same picture";
}

TEST(DepartureAt, TrustsNeitherClippedNorBlackPixels) {
    Image pixels = testkit::sky(kSize);
    pixels(Rect(160, 110, 20, 20)).setTo(cv::Scalar::all(65535));
    pixels(Rect(220, 110, 20, 20)).setTo(cv::Scalar::all(0));
    const auto d = departureAt(pixels, upright(), kBox, cover());
    ASSERT_TRUE(d.told);
    EXPECT_EQ(d.trust.at<float>(20, 20), 0);
    EXPECT_EQ(d.trust.at<float>(20, 80), 0);
    EXPECT_EQ(d.trust.at<float>(60, 10), 1);
}

TEST(DepartureAt, SaysNothingWhereTheBoxHasNoSurroundings) {
    const Mask all(kBox.size(), CV_8U, cv::Scalar(255));
    EXPECT_FALSE(departureAt(testkit::sky(kSize), upright(), kBox, all).told);
    const Rect outside(500, 400, 100, 90);
    EXPECT_FALSE(departureAt(testkit::sky(kSize), upright(), outside, cover()).told);
}

}  // namespace
}  // namespace gq::carry
