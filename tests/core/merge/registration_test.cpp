#include "core/merge/registration.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/merge/merge.h"
#include "tests/testkit/pictures.h"

namespace gq::merge {
namespace {

const Size kSize(600, 450);

/// What the middle of a larger scene shows from a hand that moved, turned and changed its scale.
Image held(const Image& scene, PointF by, double degrees, double scale) {
    cv::Mat map =
        cv::getRotationMatrix2D({float(scene.cols) / 2, float(scene.rows) / 2}, degrees, scale);
    map.at<double>(0, 2) += double(by.x);
    map.at<double>(1, 2) += double(by.y);
    Image out;
    cv::warpAffine(scene, out, map, scene.size(), cv::INTER_CUBIC, cv::BORDER_REFLECT);
    return out(Rect(Point(40, 40), kSize)).clone();
}

/// Mean difference of inner parts, codes of 255.
double apart(const Image& a, const Image& b) {
    const Rect inner = grown({{0, 0}, a.size()}, -8, a.size());
    cv::Mat d;
    cv::absdiff(a(inner), b(inner), d);
    return cv::mean(d)[1] / 257;
}

class Registration : public ::testing::Test {
  protected:
    const Image scene = testkit::stones({kSize.width + 80, kSize.height + 80});
    const Image still = held(scene, {}, 0, 1);
};

TEST_F(Registration, LaysHeldFramesOnEachOtherWhateverTheirExposure) {
    Image dark = held(scene, {9.3f, -6.6f}, 0.4, 1),
          bright = held(scene, {-7.2f, 3.8f}, -0.3, 1.01);
    dark.convertTo(dark, -1, 0.3);
    const auto out = registered({dark, still, bright}, 1);
    ASSERT_TRUE(out) << out.error().message();
    EXPECT_EQ(out->moved, 2);
    EXPECT_EQ(out->untold, 0);
    ASSERT_EQ(out->frames.size(), 3u);
    EXPECT_EQ(out->frames[0].size(), out->frames[1].size());
    EXPECT_GT(out->frames[1].cols, kSize.width - 40);
    Image lit;
    out->frames[0].convertTo(lit, -1, 1 / 0.3);
    EXPECT_LT(apart(lit, out->frames[1]), 0.2 * apart(bright, still));
    EXPECT_LT(apart(out->frames[2], out->frames[1]), 0.2 * apart(bright, still));
}

TEST_F(Registration, LeavesFramesThatLieTogetherToTheBit) {
    const Image other = still * 0.5;
    const auto out = registered({still, other}, 0);
    ASSERT_TRUE(out);
    EXPECT_EQ(out->moved, 0);
    EXPECT_EQ(cv::norm(out->frames[1], other, cv::NORM_INF), 0);
}

TEST_F(Registration, SaysOfAFrameThatItTellsTooLittle) {
    const auto out = registered({still, Image(kSize, CV_16UC3, cv::Scalar::all(900))}, 0);
    ASSERT_TRUE(out);
    EXPECT_EQ(out->untold, 1);
}

TEST_F(Registration, KeepsAStackSharpThatRefocusingScaled) {
    Image near = held(scene, {1.5f, 0.8f}, 0, 0.992), far = held(scene, {-1.2f, 1.1f}, 0, 1.008);
    const auto out = mergedStack({near, still, far});
    ASSERT_TRUE(out);
    cv::Mat match;
    cv::matchTemplate(narrow(still), narrow(out->pixels), match, cv::TM_CCOEFF_NORMED);
    double best = 0;
    cv::minMaxLoc(match, nullptr, &best);
    EXPECT_GT(best, 0.97);
}

}  // namespace
}  // namespace gq::merge
