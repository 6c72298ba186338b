#include "core/pixels/region.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq {
namespace {

const Size kPicture(200, 120);

Region blot() {
    return stroke({{40.5f, 30.5f}, {70, 44}, {66, 80}}, 9, kPicture);
}

TEST(Disc, HasTheAreaOfADisc) {
    EXPECT_NEAR(disc({100, 60}, 20, kPicture).area(), 1257, 15);
}

TEST(Disc, KeepsToThePicture) {
    const Region d = disc({1, 1}, 30, kPicture);
    EXPECT_EQ(d.box.tl(), Point(0, 0));
    EXPECT_TRUE(disc({-80, -80}, 10, kPicture).empty());
    EXPECT_EQ(disc({50.2f, 50.7f}, 0.1f, kPicture).area(), 1);
}

TEST(Runs, ComeBackAsTheSameRegion) {
    const Region r = blot();
    const auto back = regionFromRuns(r.box, runs(r));
    ASSERT_TRUE(back);
    EXPECT_TRUE(testkit::equal(back->mask, r.mask));
}

TEST(Runs, RefuseWhatDoesNotFitTheBox) {
    for (const char* bad :
         {"", "5", "-3,9", "3,x", "99999999999999999999", "4,5,1000000", "9,", "a"})
        EXPECT_FALSE(regionFromRuns({0, 0, 3, 3}, bad)) << bad;
    EXPECT_FALSE(regionFromRuns({0, 0, -3, 3}, "9"));
    EXPECT_TRUE(regionFromRuns({0, 0, 3, 3}, "4,2,3"));
}

TEST(Pieces, FindsEachSpotOnce) {
    Mask mask(kPicture, CV_8U, cv::Scalar(0));
    paint(mask, disc({20, 30}, 6, kPicture));
    paint(mask, blot());
    paint(mask, disc({150, 90}, 4, kPicture));
    const auto all = pieces(mask);
    ASSERT_EQ(all.size(), 3u);
    int area = 0;
    for (const auto& p : all) area += p.area();
    EXPECT_EQ(area, cv::countNonZero(mask));
}

TEST(Contours, EncloseTheRegionsPixels) {
    const Region r = disc({60, 50}, 12, kPicture);
    const auto lines = contours(r);
    ASSERT_EQ(lines.size(), 1u);
    EXPECT_NEAR(std::abs(cv::contourArea(lines[0])), r.area(), r.area() * 0.06);
}

TEST(Grown, AddsARimAndKeepsToThePicture) {
    const Region d = disc({60, 50}, 10, kPicture), g = grown(d, 5, kPicture);
    EXPECT_NEAR(g.area(), 3.1416 * 15 * 15, 30);
    EXPECT_EQ(grown(disc({2, 2}, 4, kPicture), 9, kPicture).box.tl(), Point(0, 0));
}

class CarriedThrough : public testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(Turns, CarriedThrough, testing::Range(1, 9));

TEST_P(CarriedThrough, ATurnedCopyLandsOnTheSameSensorPixels) {
    FrameGeometry from, to;
    from.stored = kPicture;
    to.storedTurn = orientationFromExif(GetParam());
    to.stored = swapsSides(to.storedTurn) ? Size(kPicture.height, kPicture.width) : kPicture;
    Mask whole(kPicture, CV_8U, cv::Scalar(0)), landed(to.stored, CV_8U, cv::Scalar(0));
    paint(whole, blot());
    paint(landed, carried(blot(), from, to));
    EXPECT_TRUE(testkit::equal(landed, turned(whole, to.storedTurn)));
}

TEST(Carried, FallsOutsideACroppedFrame) {
    FrameGeometry from, to;
    from.stored = to.sensor = {200, 120};
    to.stored = {50, 50};
    to.cropOffset = {150, 70};
    EXPECT_TRUE(carried(blot(), from, to).empty());
    EXPECT_FALSE(carried(disc({170, 90}, 5, kPicture), from, to).empty());
}

}  // namespace
}  // namespace gq
