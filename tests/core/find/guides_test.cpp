#include "core/find/guides.h"

#include <gtest/gtest.h>

#include "core/find/find.h"
#include "core/find/smooth_areas.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

constexpr int kScale = 4;
const Size kSize(900, 700);

TEST(Guides, StrokesOfHeedAddUpAndErasingTakesAway) {
    const std::vector<PointF> path{{100, 100}, {300, 100}};
    const Mask once = painted({}, kSize, kScale, path, 60, 128);
    const Mask twice = painted(once, kSize, kScale, path, 60, 128);
    EXPECT_EQ(once.at<uchar>(25, 50), 128);
    EXPECT_EQ(twice.at<uchar>(25, 50), 255);
    EXPECT_EQ(once.at<uchar>(60, 50), 0);
    EXPECT_EQ(painted(twice, kSize, kScale, path, 60, -255).at<uchar>(25, 50), 0);
    EXPECT_EQ(once.at<uchar>(25, 50), 128) << "masks are never written after they were made";
}

TEST(Guides, AnOutlineFillsItsInsideAndInvertsToItsOutside) {
    const Mask in =
        filled({}, kSize, kScale, {{100, 100}, {500, 100}, {500, 400}, {100, 400}}, 255);
    EXPECT_EQ(in.at<uchar>(60, 75), 255);
    EXPECT_EQ(in.at<uchar>(150, 75), 0);
    const Mask out = invertedMask(in, kSize, kScale);
    EXPECT_EQ(out.at<uchar>(60, 75), 0);
    EXPECT_EQ(out.at<uchar>(150, 75), 255);
    const uchar edge = softened(in, kScale, 80).at<uchar>(60, 25);
    EXPECT_GT(edge, 60);
    EXPECT_LT(edge, 200);
}

const std::vector<testkit::Spot> kTwo{{{200, 200}, 10, 0.2f}, {{650, 450}, 10, 0.2f}};

bool finds(const Guides& guides, PointF at, const std::vector<testkit::Spot>& spots = kTwo) {
    const auto found = find({testkit::dusty(testkit::sky(kSize), spots), 16}, {}, guides);
    EXPECT_TRUE(found);
    return std::any_of(found->begin(), found->end(), [&](const Finding& f) {
        return f.confidence >= 0.5f && f.region.contains({int(at.x), int(at.y)});
    });
}

TEST(Guides, NothingIsFoundUnderAShieldOrOutsideTheBounds) {
    const Mask left = filled({}, kSize, kScale, {{0, 0}, {450, 0}, {450, 700}, {0, 700}}, 255);
    EXPECT_TRUE(finds({}, kTwo[0].at));
    EXPECT_TRUE(finds({}, kTwo[1].at));
    EXPECT_FALSE(finds({.shield = left}, kTwo[0].at));
    EXPECT_TRUE(finds({.shield = left}, kTwo[1].at));
    EXPECT_TRUE(finds({.bounds = left}, kTwo[0].at));
    EXPECT_FALSE(finds({.bounds = left}, kTwo[1].at));
}

TEST(Guides, ALongLineEndsAtAShield) {
    const Size size(900, 600);
    Image scratched = testkit::sky(size);
    cv::line(scratched, {450, 0}, {450, size.height}, cv::Scalar::all(62000), 2);
    Mask shield(size, CV_8U, cv::Scalar(0));
    shield.rowRange(400, size.height) = 255;
    const auto found = find({scratched, 8}, {.origin = Origin::Negative}, {.shield = shield});
    ASSERT_TRUE(found);
    EXPECT_TRUE(
        std::ranges::any_of(*found, [](const Finding& f) { return f.region.box.height > 350; }));
    for (const auto& f : *found) EXPECT_LE(f.region.box.br().y, 400);
}

/// Ever deeper shadows in the left half of a sky, and the same in the right one.
const std::vector<testkit::Spot> kEverDeeper = [] {
    std::vector<testkit::Spot> out;
    for (const float x : {60.0f, 510.0f})
        for (int i = 0; i < 12; ++i)
            out.push_back({{x + 100 * float(i % 4), float(120 + 220 * (i / 4))},
                           8,
                           0.003f + 0.004f * float(i)});
    return out;
}();

TEST(Guides, HushHidesFaintOnesWhereItLiesAndHeedShowsMore) {
    const Image worn = testkit::dusty(testkit::sky(kSize), kEverDeeper);
    const Mask left = filled({}, kSize, kScale, {{0, 0}, {450, 0}, {450, 700}, {0, 700}}, 255);
    struct Count {
        int left = 0, right = 0;
    };
    const auto count = [&](const Guides& guides) {
        Count out;
        const auto found = find({worn, 16}, {}, guides);
        for (const auto& f : *found) ++(f.region.centre().x < 450 ? out.left : out.right);
        return out;
    };
    const auto plain = count({}), hushed = count({.hush = left}), heeded = count({.heed = left});
    EXPECT_GT(hushed.left, 0);
    EXPECT_LT(hushed.left, plain.left);
    EXPECT_GT(heeded.left, plain.left);
    EXPECT_EQ(hushed.right, plain.right);
}

TEST(SmoothAreas, AreTheSkyAndNotTheGrass) {
    Image picture = testkit::sky(kSize);
    testkit::grass(kSize)(Rect(0, 350, 900, 350)).copyTo(picture(Rect(0, 350, 900, 350)));
    const Mask smooth = smoothAreas(picture, kScale);
    EXPECT_GT(cv::mean(smooth(Rect(0, 0, 225, 70)))[0], 230);
    EXPECT_LT(cv::mean(smooth(Rect(0, 105, 225, 70)))[0], 25);
}

}  // namespace
}  // namespace gq::find
