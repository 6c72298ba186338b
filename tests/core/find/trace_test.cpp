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

TEST(TraceLine, FindsNothingWhereThereIsNoLine) {
    EXPECT_TRUE(traceLine(testkit::sky(kSize), {200, 100}).path.empty());
    EXPECT_TRUE(traceLine(testkit::sky(kSize), {-5, 900}).path.empty());
}

}  // namespace
}  // namespace gq::find
