#include "core/carry/agreement.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

namespace gq::carry {
namespace {

const Size kSize(500, 400);
const std::vector<Point> kDust{{90, 80}, {250, 300}, {410, 150}};

/// What a frame full of dark strokes says, with dust that shows in every frame.
ImageF busy(std::uint64_t seed, bool dusty) {
    cv::RNG rng(seed);
    ImageF z(kSize, CV_32F);
    rng.fill(z, cv::RNG::NORMAL, 0, 0.7);
    for (int i = 0; i < 500; ++i)
        cv::circle(z, {rng.uniform(0, kSize.width), rng.uniform(0, kSize.height)},
                   rng.uniform(2, 7), cv::Scalar(rng.uniform(2.0, 6.0)), -1);
    if (dusty)
        for (const Point at : kDust) cv::circle(z, at, 5, cv::Scalar(5), -1);
    return z;
}

Agreement of(int frames, bool dusty) {
    Agreement out;
    const ImageF noise(kSize / 2, CV_32F, cv::Scalar(0.02));
    for (int i = 0; i < frames; ++i)
        out.add(busy(std::uint64_t(i + 1), dusty), noise, ImageF(kSize, CV_32F, cv::Scalar(1)));
    return out;
}

TEST(Agreement, OfFewBusyFramesIsNotTakenForDust) {
    const auto clean = of(4, false);
    constexpr double kAsManyAsThereAre = 1e9;
    EXPECT_GT(clean.places(kAsManyAsThereAre).size(), 3u) << "the frames do agree by chance";
    EXPECT_LE(clean.places(0.1).size(), 1u);
}

TEST(Agreement, OfAllFramesIsDustHoweverBusyTheyAre) {
    const auto places = of(8, true).places(0.1);
    for (const Point at : kDust)
        EXPECT_TRUE(std::any_of(places.begin(), places.end(), [&](const auto& p) {
            return p.region.contains(at);
        })) << at;
    EXPECT_LE(places.size(), kDust.size() + 1);
}

TEST(Agreement, OfALevelHorizonIsNotTakenForDustAndHidesNone) {
    Agreement agreement;
    cv::RNG rng(3);
    for (int i = 0; i < 4; ++i) {
        ImageF z(kSize, CV_32F);
        rng.fill(z, cv::RNG::NORMAL, 0, 0.7);
        for (int x = 0; x < kSize.width; ++x)  // a shore, darker here and there
            z(Rect(x, 220, 1, 5)) += 3 + 2 * std::sin(0.05 * x + i);
        for (const Point at : kDust) cv::circle(z, at, 5, cv::Scalar(5), -1);
        agreement.add(z, ImageF(kSize / 2, CV_32F, cv::Scalar(0.02)));
    }
    const auto places = agreement.places(0.1);
    EXPECT_EQ(places.size(), kDust.size());
    for (const auto& p : places)
        EXPECT_FALSE(p.region.box.y < 225 && p.region.box.br().y > 220) << p.region.box;
}

}  // namespace
}  // namespace gq::carry
