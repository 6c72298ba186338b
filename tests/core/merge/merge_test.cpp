#include "core/merge/merge.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/merge/band_blender.h"
#include "core/merge/panorama.h"
#include "tests/testkit/pictures.h"

namespace gq::merge {
namespace {

/// Very dark places of a picture that are covered.
int blackSpots(const Joined& joined) {
    Mask inner;
    cv::erode(joined.covered, inner, Mask::ones(9, 9, CV_8U), {-1, -1}, 1, cv::BORDER_CONSTANT, 0);
    cv::Mat grey;
    cv::extractChannel(joined.pixels, grey, 1);
    return int(pieces(Mask((grey < 2000) & (inner > 0))).size());
}

TEST(Panorama, GoesAroundBlemishesThatAnotherFrameShowsClean) {
    const Image whole = testkit::stones({1500, 700});
    const Size size(640, 480);
    std::vector<Part> parts;
    for (const double yaw : {-0.22, 0.0, 0.22}) {
        Part p{testkit::view(whole, 1200, yaw, size), {}};
        // Dust sits at the same place of every frame.
        for (const Point at : {Point(110, 240), Point(320, 100), Point(560, 330)}) {
            cv::circle(p.pixels, at, 8, {0, 0, 0}, -1);
            p.blemishes.push_back(disc(PointF(at), 9, size));
        }
        parts.push_back(std::move(p));
    }
    auto unaware = parts;
    for (auto& p : unaware) p.blemishes.clear();
    const auto joined = joinPanorama(parts), plain = joinPanorama(unaware);
    ASSERT_TRUE(joined) << joined.error().message();
    ASSERT_TRUE(plain);
    EXPECT_GT(joined->pixels.cols, 1000);
    EXPECT_GT(joined->avoided, 0);
    EXPECT_LT(blackSpots(*joined), blackSpots(*plain));
    EXPECT_LE(blackSpots(*joined), joined->left);
}

TEST(Panorama, RefusesFramesThatDoNotBelongTogether) {
    const auto out =
        joinPanorama({{testkit::sky({600, 400}, 1), {}}, {testkit::stones({600, 400}), {}}});
    ASSERT_FALSE(out);
    EXPECT_NE(out.error().what.find("overlap"), std::string::npos);
}

/// Two white pictures, the second's areas over the first's.
TEST(BandBlender, KeepsTheBrightestWhiteWhereAreasOverlap) {
    const Size size(300, 200);
    const Image white(size, CV_16UC3, cv::Scalar::all(65535));
    Mask own(size, CV_8U, cv::Scalar(255));
    BandBlender blender({-20, 5, 500, 210});
    blender.add(white, 1, own, {-20, 5});
    blender.add(white, 1, own, {180, 15});
    Mask covered;
    const Image out = blender.blend(covered);
    ASSERT_EQ(out.size(), Size(500, 210));
    EXPECT_EQ(covered.at<uchar>(209, 0), 0);
    cv::Mat dark;
    cv::inRange(out, cv::Scalar::all(0), cv::Scalar::all(65530), dark);
    EXPECT_EQ(cv::countNonZero(dark & covered), 0);
}

TEST(BandBlender, KeepsAPicturesValuesFarFromTheEdgesOfItsArea) {
    const Size size(900, 300);
    const Image left = testkit::grass(size, 1), right = testkit::sky(size, 2);
    Mask west(size, CV_8U, cv::Scalar(0));
    west(Rect(0, 0, 450, 300)).setTo(255);
    BandBlender blender(Rect({}, size));
    blender.add(left, 1, west, {});
    blender.add(right, 0.5, ~west, {});
    Mask covered;
    const Image out = blender.blend(covered);
    EXPECT_EQ(cv::countNonZero(covered), size.area());
    const Rect far(0, 0, 250, 300), over(650, 0, 250, 300);
    EXPECT_LE(cv::norm(out(far), left(far), cv::NORM_INF), 1);
    EXPECT_LE(cv::norm(out(over), Image(right(over) * 0.5), cv::NORM_INF), 1);
}

TEST(Merge, ABracketShowsWhatEachExposureShows) {
    const Image whole = testkit::stones({400, 300});
    Image dark = whole * 0.2, bright = whole.clone();
    bright.convertTo(bright, -1, 2.5);
    const auto out = mergedBracket({dark, whole, bright});
    ASSERT_TRUE(out);
    const double level = cv::mean(out->pixels)[1];
    EXPECT_GT(level, cv::mean(dark)[1]);
    EXPECT_LT(level, cv::mean(bright)[1]);
    EXPECT_FALSE(mergedBracket({whole}));
    EXPECT_FALSE(mergedBracket({whole, testkit::sky({200, 200})}));
}

TEST(Merge, AStackIsSharpWhereAnyFrameIs) {
    const Image whole = testkit::stones({400, 300});
    Image soft, left = whole.clone(), right = whole.clone();
    cv::GaussianBlur(whole, soft, {}, 3);
    const Rect west(0, 0, 200, 300), east(200, 0, 200, 300);
    soft(east).copyTo(left(east));
    soft(west).copyTo(right(west));
    const auto out = mergedStack({left, right});
    ASSERT_TRUE(out);
    const Mask all(whole.size(), CV_8U, cv::Scalar(255));
    EXPECT_GT(testkit::psnr(out->pixels, whole, all), testkit::psnr(left, whole, all) + 6);
}

}  // namespace
}  // namespace gq::merge
