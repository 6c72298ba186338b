#include "core/find/similar_tone.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(500, 300);

/// What both have of what either has.
double likeness(const Region& got, const Region& truth) {
    const int both = overlap(got, truth);
    return double(both) / (got.area() + truth.area() - both);
}

TEST(SimilarTone, TakesWhatIsConnectedAndStopsAtAnEdge) {
    Image pixels = testkit::sky(kSize);
    pixels(Rect(100, 100, 80, 60)).setTo(cv::Scalar(9000, 9000, 9000));
    pixels(Rect(300, 100, 80, 60)).setTo(cv::Scalar(9000, 9000, 9000));
    const Region same = similarTone(pixels, {120, 120});
    EXPECT_NEAR(same.area(), 80 * 60, 400);
    EXPECT_FALSE(same.contains({320, 120}));
}

TEST(SimilarTone, TakesABlotWholeThatLetsTheTextureShowThrough) {
    for (const float opacity : {0.6f, 0.8f, 1.0f}) {
        const Image worn = testkit::specked(testkit::grass(kSize), {{{200, 150}, 30, opacity}});
        EXPECT_GT(likeness(similarTone(worn, {205, 143}), disc({200, 150}, 30, kSize)), 0.75)
            << opacity;
    }
}

TEST(SimilarTone, FillsGrainAndCutsWhatHangsOnByAThread) {
    Image pixels = testkit::sky(kSize);
    Mask blots(kSize, CV_8U, cv::Scalar(0));
    const Region own = disc({150, 150}, 30, kSize);
    paint(blots, own);
    paint(blots, disc({350, 150}, 40, kSize));
    paint(blots, stroke({{150, 150}, {350, 150}}, 3, kSize));
    pixels.setTo(cv::Scalar::all(12000), blots);
    pixels(Rect(145, 160, 4, 4)).setTo(cv::Scalar::all(30000));
    const Region got = similarTone(pixels, {150, 145});
    EXPECT_GT(likeness(got, own), 0.8);
    EXPECT_TRUE(got.contains({147, 162}));
    EXPECT_FALSE(got.contains({350, 150}));
}

TEST(SimilarTone, OfAPlaceOutsideOrInGreyIsDefined) {
    EXPECT_TRUE(similarTone(testkit::sky(kSize), {-3, 10}).empty());
    Image grey(kSize, CV_16U, cv::Scalar(40000));
    grey(Rect(100, 100, 50, 50)).setTo(cv::Scalar(10000));
    EXPECT_NEAR(similarTone(grey, {110, 120}).area(), 2500, 250);
    EXPECT_FALSE(similarTone(grey, {0, 0}).empty());
}

}  // namespace
}  // namespace gq::find
