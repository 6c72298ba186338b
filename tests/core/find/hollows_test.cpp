#include <gtest/gtest.h>

#include "core/find/hollows.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(600, 400);
const PointF kCentre(300, 200);

/// `sky` with a fifth of the light held back there.
Image dimmed(const Region& there) {
    Image out = testkit::sky(kSize);
    Image dark;
    out.convertTo(dark, -1, 0.8);
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    paint(mask, there);
    dark.copyTo(out, mask);
    return out;
}

Finding sure(Region region) {
    Finding f;
    f.region = std::move(region);
    f.confidence = 0.9f;
    return f;
}

/// What of a disc lies left of its centre and near its edge.
Region crescent(float radius) {
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    paint(mask, without(disc(kCentre, radius, kSize), disc(kCentre, radius - 6, kSize)));
    mask.colRange(int(kCentre.x), kSize.width) = 0;
    return regionOf(mask);
}

TEST(Hollows, ARimGoesOnToTheWholeShadow) {
    for (const float radius : {14.0f, 20.0f}) {
        const Region truth = disc(kCentre, radius, kSize);
        std::vector<Finding> all{sure(crescent(radius))};
        ASSERT_TRUE(addWholes(all, dimmed(truth)));
        ASSERT_EQ(all.size(), 2u) << radius;
        const Region& whole = all[1].region;
        EXPECT_LT(without(truth, whole).area(), 0.15 * truth.area());
        EXPECT_LT(without(whole, truth).area(), 0.25 * truth.area());
        EXPECT_FLOAT_EQ(all[1].confidence, 0.9f);
        EXPECT_NEAR(all[1].measures.size, 2 * radius, 0.2 * radius);
    }
}

TEST(Hollows, WhatIsWholeAndAHairStayAsTheyAre) {
    for (const Region& truth : {disc(kCentre, 8, kSize), stroke({{280, 200}, {312, 202}}, 3, kSize),
                                stroke({{270, 190}, {290, 205}, {330, 210}}, 3, kSize)}) {
        std::vector<Finding> all{sure(truth)};
        EXPECT_FALSE(addWholes(all, dimmed(truth)));
    }
}

TEST(Hollows, NoWholeGoesWhereFindingIsShut) {
    ImageF easing(kSize, CV_32F, cv::Scalar(1));
    const Rect shut(0, 205, kSize.width, kSize.height - 205);
    easing(shut) = 0;
    std::vector<Finding> all{sure(crescent(20))};
    ASSERT_TRUE(addWholes(all, dimmed(disc(kCentre, 20, kSize)), easing));
    EXPECT_TRUE((all[1].region.box & shut).empty()) << all[1].region.box;
}

TEST(Hollows, NothingGrowsFromAnUnsureFindingOrOnPlainSky) {
    std::vector<Finding> all{sure(crescent(20))};
    EXPECT_FALSE(addWholes(all, testkit::sky(kSize)));
    all[0].confidence = 0.4f;
    EXPECT_FALSE(addWholes(all, dimmed(disc(kCentre, 20, kSize))));
}

}  // namespace
}  // namespace gq::find
