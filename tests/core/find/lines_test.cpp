#include <gtest/gtest.h>

#include "core/find/crumbs.h"
#include "core/find/find.h"
#include "core/find/join.h"
#include "core/find/run.h"
#include "core/find/sight.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(900, 700);

Finding lineFrom(PointF a, PointF b) {
    Finding f;
    f.kind = Kind::Crack;
    f.confidence = 0.8f;
    f.region = stroke({a, b}, 4, kSize);
    f.measures.length = float(cv::norm(a - b));
    f.measures.width = 4;
    return f;
}

TEST(Run, FollowsALineFromEndToEnd) {
    const auto run = runOf(stroke({{100, 100}, {300, 100}, {300, 250}}, 5, kSize));
    ASSERT_GT(run.size(), 20u);
    EXPECT_NEAR(lengthOf(run), 350, 25);
    const bool forward = cv::norm(run.front() - PointF(100, 100)) < 12;
    EXPECT_LT(cv::norm((forward ? run.back() : run.front()) - PointF(300, 250)), 12);
    EXPECT_TRUE(runOf({}).empty());
    EXPECT_EQ(runOf(disc({50, 50}, 0.3f, kSize)).size(), 1u);
}

TEST(Joined, PutsPiecesOfOneLineTogetherAndLeavesOthersApart) {
    const auto one =
        joined({lineFrom({100, 100}, {200, 100}), lineFrom({212, 101}, {320, 103})}, kSize);
    ASSERT_EQ(one.size(), 1u);
    EXPECT_GT(one[0].measures.length, 200);
    EXPECT_EQ(
        joined({lineFrom({100, 100}, {200, 100}), lineFrom({100, 160}, {200, 160})}, kSize).size(),
        2u);
}

TEST(Joined, KeepsTheSurerOfTwoAtOnePlaceAndSpecksOnAStain) {
    Finding sure, unsure, stain;
    sure.region = unsure.region = disc({200, 200}, 6, kSize);
    sure.confidence = 0.9f;
    unsure.confidence = 0.4f;
    stain.kind = Kind::Stain;
    stain.confidence = 0.95f;
    stain.region = disc({200, 200}, 80, kSize);
    const auto all = joined({unsure, stain, sure}, kSize);
    ASSERT_EQ(all.size(), 2u);
    EXPECT_FLOAT_EQ(all[0].confidence, 0.95f);
    EXPECT_FLOAT_EQ(all[1].confidence, 0.9f);
}

TEST(Joined, TakesAWholeBeforeTheSurerCrumbsOfItsRim) {
    const Region all = disc({200, 200}, 20, kSize), core = disc({200, 200}, 14, kSize);
    const auto blot = [](Region region, float confidence) {
        Finding f;
        f.region = std::move(region);
        f.confidence = confidence;
        f.measures.size = std::sqrt(float(f.region.area()) * 1.273f);
        return f;
    };
    const Region rim = without(all, core);
    Mask left(kSize, CV_8U, cv::Scalar(0)), right = left.clone();
    paint(left, rim);
    left.copyTo(right);
    left.colRange(200, kSize.width) = 0;
    right.colRange(0, 200) = 0;
    const std::vector<Finding> crumbs{blot(regionOf(left), 0.99f), blot(regionOf(right), 0.97f)};
    const auto found = [&](float sureness) {
        auto list = crumbs;
        list.push_back(blot(all, sureness));
        return joined(list, kSize);
    };
    ASSERT_EQ(found(0.95f).size(), 1u);
    EXPECT_EQ(found(0.95f)[0].region.area(), all.area());
    // One that might as well be the picture's own does not swallow true dust.
    EXPECT_EQ(found(0.6f).size(), 2u);
}

Finding longLine() {
    Finding f = lineFrom({20, 300}, {880, 300});
    f.kind = Kind::Scratch;
    return f;
}

TEST(Joined, KeepsAHairThatALongLineCrossesAndRunsAlongForAWhile) {
    Finding hair;
    hair.kind = Kind::Fibre;
    hair.confidence = 0.9f;
    hair.region = together(stroke({{300, 240}, {340, 300}, {400, 380}}, 3, kSize),
                           stroke({{340, 300}, {390, 300}}, 3, kSize));
    hair.measures.length = 160;
    hair.measures.width = 3;
    EXPECT_EQ(joined({longLine(), hair}, kSize).size(), 2u);
    hair.region = stroke({{300, 298}, {460, 303}}, 3, kSize);
    EXPECT_EQ(joined({longLine(), hair}, kSize).size(), 1u) << "a piece of the line";
}

TEST(Joined, KeepsABlotOnALongLineButNoWideningOfIt) {
    Finding blot;
    blot.kind = Kind::Speck;
    blot.confidence = 0.9f;
    blot.region = disc({500, 296}, 7, kSize);
    auto all = joined({longLine(), blot, blot}, kSize);
    EXPECT_EQ(all.size(), 2u) << "once";
    blot.region = disc({500, 300}, 4, kSize);
    EXPECT_EQ(joined({longLine(), blot}, kSize).size(), 1u);
}

TEST(Crumbs, AreTakenUpByAFlakeThatHoldsThem) {
    const auto speck = [](Region region, float confidence) {
        Finding f;
        f.kind = Kind::Speck;
        f.region = std::move(region);
        f.confidence = confidence;
        return f;
    };
    std::vector<Finding> flakes{speck(disc({200, 200}, 20, kSize), 0.7f)};
    std::vector<Finding> all{speck(disc({190, 196}, 9, kSize), 0.99f),
                             speck(disc({219, 200}, 5, kSize), 0.98f),
                             speck(disc({300, 200}, 5, kSize), 0.97f)};
    auto unsure = flakes;
    unsure[0].confidence = 0.4f;
    auto left = all;
    takeUpCrumbs(unsure, left);
    EXPECT_EQ(left.size(), 3u);
    takeUpCrumbs(flakes, all);
    ASSERT_EQ(all.size(), 2u) << "one lies mostly beside it, one far away";
    EXPECT_FLOAT_EQ(flakes[0].confidence, 0.99f);
}

TEST(Sight, ASpeckSeenOnALargePrintIsNotSeenOnATelephone) {
    Measures m;
    m.size = m.length = m.width = 6;
    m.contrast = 0.03f;
    const Size frame(6000, 4000);
    const auto at = [&](Sight s) { return seen(m, true, frame, s); };
    EXPECT_LT(at({.use = Sight::Use::Screen, .screenWidth = 800}), 1);
    EXPECT_GT(at({.use = Sight::Use::Print, .printWidth = 2000, .viewingDistance = 500}), 1);
    EXPECT_GT(at({.use = Sight::Use::Off}), 1);
    const float near = at({.use = Sight::Use::Print, .printWidth = 600, .viewingDistance = 300});
    EXPECT_GT(near, at({.use = Sight::Use::Print, .printWidth = 600, .viewingDistance = 3000}));
}

}  // namespace
}  // namespace gq::find
