#include "core/pixels/frame_geometry.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"

namespace gq {
namespace {

class EachOrientation : public testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(Exif, EachOrientation, testing::Range(1, 9));

TEST_P(EachOrientation, MovesAPointAsItTurnsThePicture) {
    const auto turn = orientationFromExif(GetParam());
    cv::Mat picture(5, 7, CV_8U);
    for (int i = 0; i < 35; ++i) picture.data[i] = uchar(i);
    const cv::Mat shown = turned(picture, turn);
    for (int y = 0; y < 5; ++y)
        for (int x = 0; x < 7; ++x) {
            const PointF p = turned(PointF(float(x) + 0.5f, float(y) + 0.5f), picture.size(), turn);
            EXPECT_EQ(shown.at<uchar>(int(p.y), int(p.x)), picture.at<uchar>(y, x));
        }
}

TEST_P(EachOrientation, ComesBackToTheStoredPoint) {
    FrameGeometry g;
    g.stored = {640, 480};
    g.orientation = orientationFromExif(GetParam());
    g.storedTurn = orientationFromExif(9 - GetParam());
    g.sensor = {1400, 1400};
    g.cropOffset = {30, 50};
    g.scale = 0.5f;
    for (const PointF p : {PointF(0.5f, 0.5f), PointF(639.5f, 20), PointF(100, 479.5f)}) {
        const PointF shown = g.fromShown(g.toShown(p)), sensor = g.fromSensor(g.toSensor(p));
        EXPECT_NEAR(cv::norm(shown - p), 0, 1e-3);
        EXPECT_NEAR(cv::norm(sensor - p), 0, 1e-3);
    }
}

TEST_P(EachOrientation, IsUndoneByItsInverse) {
    const auto turn = orientationFromExif(GetParam());
    const cv::Mat picture = testkit::sky({9, 6});
    EXPECT_TRUE(testkit::equal(turned(turned(picture, turn), inverse(turn)), picture));
}

TEST(Orientation, TakesAnUnknownTagAsUpright) {
    EXPECT_EQ(orientationFromExif(0), Orientation::Upright);
    EXPECT_EQ(orientationFromExif(99), Orientation::Upright);
}

}  // namespace
}  // namespace gq
