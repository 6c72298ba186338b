#include "core/mend/guide_lines.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/mend/patch.h"
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

TEST(Rebuild, AnEdgeFollowsItsGuide) {
    const Image clean = edged();
    Image worn = clean.clone();
    Mask hole(kSize, CV_8U, cv::Scalar(0));
    paint(hole, kHole);
    worn.setTo(cv::Scalar::all(40000), hole);
    Mend m;
    m.region = kHole;
    m.method = Method::Rebuild;
    m.guides = {drawn(3, -3)};
    const auto patch = makePatch({worn, {}}, m);
    ASSERT_TRUE(patch);
    Image out = worn.clone();
    lay(*patch, out);
    // 4 px from the edge either side is what it should be, all along.
    cv::Mat soft;
    cv::GaussianBlur(out, soft, {}, 1.5);
    for (float x = 162; x < 240; x += 6) {
        const PointF above = onEdge(x) - kAcross * 4, below = onEdge(x) + kAcross * 4;
        const auto tone = [&](PointF p) { return int(soft.at<cv::Vec3w>(int(p.y), int(p.x))[1]); };
        EXPECT_GT(tone(above), 1.5 * tone(below)) << "at " << x;
    }
}

}  // namespace
}  // namespace gq::mend
