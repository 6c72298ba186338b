#include "core/mend/guide_lines.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/mend/edge_guides.h"
#include "core/mend/patch.h"
#include "core/mend/rough_fill.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

using Line = std::vector<PointF>;

const Size kSize(400, 300);
const PointF kFrom(0, 110), kTo(400, 190);  ///< the edge
const Region kHole = disc({200, 150}, 45, kSize);

/// Bright above the edge, dark below, both textured.
Image edged() {
    Image out = testkit::grass(kSize), dark = testkit::grass(kSize, 2) * 0.3;
    Mask below(kSize, CV_8U, cv::Scalar(0));
    const std::vector<Point> corners{Point(kFrom), Point(kTo), {400, 300}, {0, 300}};
    cv::fillConvexPoly(below, corners, cv::Scalar(255));
    dark.copyTo(out, below);
    return out;
}

Level levelOf(const Image& picture) {
    Level out;
    cv::Mat values, opaque(kSize, CV_32F, cv::Scalar(0));
    picture.convertTo(values, CV_32FC3, 1.0 / 65535);
    cv::merge(std::vector<cv::Mat>{values, opaque}, out.values);
    out.hole = Mask(kSize, CV_8U, cv::Scalar(0));
    paint(out.hole, kHole);
    out.forbidden = out.guide = Mask(kSize, CV_8U, cv::Scalar(0));
    out.beside = ImageF(kSize, CV_32F, cv::Scalar(0));
    return out;
}

/// How far from the line, as laid, a place is; 99 where none was laid.
double beside(const Level& level, PointF at) {
    const Point p{int(at.x), int(at.y)};
    return level.guide.at<uchar>(p) ? double(level.beside.at<float>(p)) : 99;
}

PointF onEdge(float x) {
    return {x, kFrom.y + (kTo.y - kFrom.y) * x / 400};
}

const PointF kAcross(-0.196f, 0.98f);  ///< unit vector down across the edge

/// The edge's course as a hand draws it, so many px off at either end.
Line drawn(float before, float after) {
    return {onEdge(145) + kAcross * before, onEdge(255) + kAcross * after};
}

TEST(LayGuides, ALineDrawnAskewIsMovedOntoTheEdgeItMeans) {
    for (const auto& [before, after] : {std::pair(0.0f, 0.0f), {4.0f, -3.0f}, {-5.0f, -5.0f}}) {
        Level level = levelOf(edged());
        layGuides(level, {drawn(before, after)});
        for (const float x : {140.0f, 170.0f, 200.0f, 230.0f, 260.0f})
            EXPECT_NEAR(beside(level, onEdge(x)), 0, 1.5) << before << ' ' << after << " at " << x;
        EXPECT_GT(beside(level, onEdge(200) + kAcross * 4), 2) << "below lies to the right";
        EXPECT_LT(beside(level, onEdge(200) - kAcross * 4), -2);
        EXPECT_LT(beside(level, onEdge(130)), 99) << "outside the hole too";
        EXPECT_EQ(beside(level, onEdge(60)), 99);
    }
}

TEST(LayGuides, WhereThereIsNoEdgeALineStaysAsItWasDrawn) {
    Level level = levelOf(testkit::sky(kSize));
    layGuides(level, {drawn(4, -3), {{10, 10}}, {}});
    EXPECT_NEAR(beside(level, onEdge(145) + kAcross * 4), 0, 1);
    EXPECT_NEAR(beside(level, onEdge(254) - kAcross * 3), 0, 1);
    EXPECT_EQ(cv::countNonZero(level.guide == 2), 0) << "a point is no line";
}

TEST(EdgeGuides, AStraightEdgeThatGoesOnBeyondTheHoleIsSeen) {
    const auto lines = edgeGuides(levelOf(edged()));
    ASSERT_EQ(lines.size(), 1u);
    for (const PointF& end : lines[0]) EXPECT_NEAR(kAcross.dot(end - onEdge(end.x)), 0, 2);
    EXPECT_GT(cv::norm(lines[0][1] - lines[0][0]), 90) << "from one side to the other";
}

TEST(EdgeGuides, AreTheFourStrongestAndNoneCrosses) {
    Image fence = testkit::sky(kSize);
    Mask bars(kSize, CV_8U, cv::Scalar(0));
    for (float y = 105; y < 200; y += 16) paint(bars, stroke({{0, y}, {400, y}}, 3, kSize));
    paint(bars, stroke({{40, 0}, {340, 300}}, 3, kSize));
    fence.setTo(cv::Scalar::all(9000), bars);
    const auto lines = edgeGuides(levelOf(fence));
    ASSERT_EQ(lines.size(), 4u);
    for (const auto& a : lines)
        for (const auto& b : lines) {
            const PointF way = a[1] - a[0];
            if (&a == &b) continue;
            EXPECT_GT(way.cross(b[0] - a[0]) * way.cross(b[1] - a[0]), 0);
        }
}

TEST(EdgeGuides, NothingIsMadeUpWhereEdgesTurnOrThereAreNone) {
    EXPECT_TRUE(edgeGuides(levelOf(testkit::sky(kSize))).empty());
    EXPECT_TRUE(edgeGuides(levelOf(testkit::grass(kSize))).empty());
    Image ending = edged();  // beyond the hole all is bright
    testkit::grass(kSize).colRange(210, 400).copyTo(ending.colRange(210, 400));
    const auto lines = edgeGuides(levelOf(ending));
    ASSERT_EQ(lines.size(), 1u);
    ASSERT_EQ(lines[0].size(), 3u) << "it does not go on, but down";
    EXPECT_NEAR(lines[0][1].x, 210, 4);
}

const PointF kCorner(190, 140);

/// A dark picture whose lower left corner lies on light paper.
Image cornered() {
    Image out = testkit::sky(kSize), dark = testkit::grass(kSize) * 0.4;
    const Rect inside(int(kCorner.x), 0, 400 - int(kCorner.x), int(kCorner.y));
    dark(inside).copyTo(out(inside));
    return out;
}

TEST(EdgeGuides, TwoEdgesMeetAtACornerInTheHole) {
    const auto lines = edgeGuides(levelOf(cornered()));
    ASSERT_EQ(lines.size(), 1u);
    ASSERT_EQ(lines[0].size(), 3u);
    EXPECT_LT(cv::norm(lines[0][1] - kCorner), 4);
}

TEST(RoughFill, WhatGuidesCutOffBeginsWithItsOwnTone) {
    const auto farthestOff = [](bool guided) {
        Level level = levelOf(cornered());
        const cv::Mat clean = level.values.clone();
        if (guided) layGuides(level, edgeGuides(level));
        level.values.setTo(cv::Scalar::all(1), level.hole);
        roughFill(level);
        float most = 0;  // inside the picture, and beside, below and diagonally off its corner
        for (const PointF off : {PointF(12, -12), {-12, -12}, {12, 12}, {-12, 12}}) {
            const Rect part(Point(kCorner + off) - Point(5, 5), Size(10, 10));
            const auto by = cv::mean(level.values(part)) - cv::mean(clean(part));
            most = std::max(most, std::abs(float(by[1])));
        }
        return most;
    };
    EXPECT_LT(farthestOff(true), 0.5f * farthestOff(false));
}

/// Rebuilds the hole in a picture; near the edge's course the result comes so near to the truth,
/// dB.
double nearTheEdge(const Image& clean, const Line& course, const Region& region,
                   const std::vector<Line>& guides) {
    Image out = clean.clone();
    Mask hole(kSize, CV_8U, cv::Scalar(0)), near = hole.clone();
    paint(hole, region);
    paint(near, stroke(course, 9, kSize));
    out.setTo(cv::Scalar::all(40000), hole);
    Mend m;
    m.region = region;
    m.method = Method::Rebuild;
    m.guides = guides;
    const auto patch = makePatch({out, {}}, m);
    EXPECT_TRUE(patch);
    if (patch) lay(*patch, out);
    Image soft, truth;
    cv::GaussianBlur(out, soft, {}, 1.5);
    cv::GaussianBlur(clean, truth, {}, 1.5);
    return testkit::psnr(soft, truth, hole & near);
}

TEST(Rebuild, AnEdgeIsHeldByAGuideDrawnAskew) {
    EXPECT_GT(nearTheEdge(edged(), {kFrom, kTo}, kHole, {drawn(3, -3)}), 27);
}

TEST(Rebuild, ACableGoesOnThroughALargeHoleByItself) {
    Image cabled = testkit::sky(kSize);
    Mask cable(kSize, CV_8U, cv::Scalar(0));
    const Line course{{0, -10}, {400, 310}};
    paint(cable, stroke(course, 3, kSize));
    cabled.setTo(cv::Scalar::all(9000), cable);
    EXPECT_GT(nearTheEdge(cabled, course, disc({200, 150}, 70, kSize), {}), 26);
}

}  // namespace
}  // namespace gq::mend
