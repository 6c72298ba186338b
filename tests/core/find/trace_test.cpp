#include "core/find/trace.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(500, 300);

TEST(TraceLine, FollowsAHairToBothEndsFromAnyOfItsPoints) {
    Image pixels = testkit::sky(kSize);
    const std::vector<PointF> hair{{60, 60}, {160, 90}, {260, 140}, {330, 220}};
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    paint(mask, stroke(hair, 4, kSize));
    pixels.setTo(cv::Scalar::all(12000), mask);
    const auto line = traceLine(pixels, {161, 91});
    ASSERT_GT(line.path.size(), 20u);
    const auto near = [&](PointF p) {
        return std::min(cv::norm(line.path.front() - p), cv::norm(line.path.back() - p));
    };
    EXPECT_LT(near(hair.front()), 10);
    EXPECT_LT(near(hair.back()), 10);
    EXPECT_NEAR(line.width, 4, 2);
}

Image lined(Image pixels, const std::vector<PointF>& course, float width, double tone) {
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    paint(mask, stroke(course, width, kSize));
    pixels.setTo(cv::Scalar::all(tone), mask);
    return pixels;
}

TEST(TraceLine, FollowsACrackAroundItsSharpTurns) {
    const std::vector<PointF> crack{{60, 80},   {110, 84},  {114, 130},
                                    {170, 128}, {164, 180}, {230, 186}};
    const auto line = traceLine(lined(testkit::sky(kSize) * 0.5, crack, 3, 52000), {90, 82});
    const Region found = grown(stroke(line.path, 3, kSize), 1, kSize),
                 all = stroke(crack, 3, kSize);
    EXPECT_LT(without(all, found).area(), 0.1 * all.area());
    EXPECT_LT(without(found, grown(all, 3, kSize)).area(), 0.05 * found.area());
}

TEST(TraceLine, TakesTheFineLineNotTheBroadOneBesideIt) {
    Image pixels = testkit::sky(kSize) * 0.5;
    pixels.rowRange(109, 119) *= 0.3;
    const std::vector<PointF> hair{{60, 104}, {400, 104}};
    const auto line = traceLine(lined(pixels, hair, 2, 34000), {200, 106});
    ASSERT_GT(line.path.size(), 100u);
    for (const auto& p : line.path) EXPECT_NEAR(p.y, 104, 2.5);
    EXPECT_LT(line.width, 4);
}

TEST(TraceLine, FindsNothingWhereThereIsNoLine) {
    EXPECT_TRUE(traceLine(testkit::sky(kSize), {200, 100}).path.empty());
    EXPECT_TRUE(traceLine(testkit::sky(kSize), {-5, 900}).path.empty());
}

}  // namespace
}  // namespace gq::find
