#include "core/find/hazes.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(1800, 1200);
const PointF kAt(1100, 520);

/// A sky without clouds.
Image clear() {
    Image out(kSize, CV_16UC3);
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x)
            for (int c = 0; c < 3; ++c)
                out.at<cv::Vec<ushort, 3>>(y, x)[c] = ushort(30000 + 3000 * c + 6 * y + 2 * x +
                                                             300 * int(2 * hashNormal(9, x, y, c)));
    return out;
}

/// The picture through a lens with a soft dull patch.
Image hazy(const Image& clean, float sigma, float depth) {
    Image out = clean.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const double d = cv::norm(PointF(float(x), float(y)) - kAt) / double(sigma);
            out.at<cv::Vec<ushort, 3>>(y, x) *= 1 - double(depth) * std::exp(-d * d / 2);
        }
    return out;
}

TEST(Hazes, AreOneSoftFindingBelowTheDefaultLine) {
    const Image sky = clear();
    EXPECT_TRUE(hazes(sky, {}).empty());
    const auto found = hazes(hazy(sky, 50, 0.05f), {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_TRUE(found[0].region.contains(Point(kAt)));
    EXPECT_TRUE(isHaze(found[0], kSize));
    EXPECT_LT(found[0].confidence, 0.5f);
    EXPECT_NEAR(found[0].measures.size, 130, 50) << "where it dims by 0.4 of its most and over";
}

TEST(Hazes, AreNoGrainsOfDust) {
    Finding grain;
    grain.measures.size = 50;
    EXPECT_FALSE(isHaze(grain, {6000, 4000}));
    EXPECT_FALSE(isHaze(grain, {512, 512})) << "large in a small picture";
    grain.measures.size = 220;
    EXPECT_TRUE(isHaze(grain, {6000, 4000}));
    grain.kind = Kind::Stain;
    EXPECT_FALSE(isHaze(grain, {6000, 4000}));
}

TEST(Hazes, AreNeitherSharpNorTinted) {
    const Image sky = clear();
    Image balloon = sky.clone();
    Mask outline = Mask::zeros(kSize, CV_8U);
    cv::circle(outline, Point(kAt), 130, 255, -1);
    cv::subtract(balloon, cv::Scalar::all(4000), balloon, outline);
    EXPECT_TRUE(hazes(balloon, {}).empty());
    Image tinted = hazy(sky, 50, 0.08f);
    std::vector<cv::Mat> planes, before;
    cv::split(tinted, planes);
    cv::split(sky, before);
    planes[2] = before[2];
    cv::merge(planes, tinted);
    EXPECT_TRUE(hazes(tinted, {}).empty()) << "the sky's own blue";
}

/// Skies with clouds of their own, seen through one lens.
std::vector<BroadView> views(float depth, int frames) {
    std::vector<BroadView> out;
    for (int i = 0; i < frames; ++i) {
        Image frame = testkit::sky(kSize, 20u + std::uint32_t(i));
        const PointF cloud(300 + 160 * float(i % 8), 250 + 90 * float(i % 5));
        cv::circle(frame, Point(cloud), 90, cv::Scalar::all(52000), -1);
        out.push_back(broadViewOf(hazy(frame, 60, depth)));
    }
    return out;
}

TEST(SharedHazes, AreWhatAllFramesHaveInCommon) {
    EXPECT_TRUE(sharedHazes(views(0, 7), kSize).empty());
    const auto found = sharedHazes(views(0.06f, 7), kSize);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_TRUE(found[0].region.contains(Point(kAt)));
    EXPECT_NEAR(found[0].measures.contrast, 0.06, 0.04);
    EXPECT_TRUE(sharedHazes(views(0.06f, 2), kSize).empty()) << "two frames prove nothing";
}

TEST(SharedHazes, AFrameTellsHowMuchItIsDimmedThere) {
    const Region place = disc(kAt, 50, kSize);
    EXPECT_GT(at(views(0.1f, 1)[0], place, kSize).dimmed, 0.05f);
    EXPECT_LT(at(views(0, 1)[0], place, kSize).dimmed, 0.02f);
}

}  // namespace
}  // namespace gq::find
