#include "sim/stains.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::sim {
namespace {

const Size kSize(500, 400);

/// A plain print, CV_32FC3, and a stain on it.
struct Stained {
    explicit Stained(std::uint32_t seed) : clean(kSize, CV_32FC3, cv::Scalar(0.6, 0.55, 0.5)) {
        worn = clean.clone();
        Dice dice(seed);
        piece = layStain(worn, dice);
    }
    ImageF clean, worn;
    WearPiece piece;
};

TEST(LayStain, GivesTheSameForASeedAndChangesOnlyWhatItCovers) {
    for (std::uint32_t seed = 1; seed <= 30; ++seed) {
        const Stained s(seed);
        ASSERT_TRUE(testkit::equal(s.worn, Stained(seed).worn)) << seed;
        ImageF changed = cv::abs(s.worn - s.clean);
        if (!s.piece.cover.empty())
            changed(s.piece.cover.box).setTo(cv::Scalar::all(0), s.piece.cover.share > 0);
        EXPECT_LT(cv::norm(changed, cv::NORM_INF), 1e-5) << seed;
        EXPECT_TRUE(cv::checkRange(s.worn, true, nullptr, 0, 1 + 1e-6)) << seed;
    }
}

TEST(LayStain, HasThemBrownGreyAndPale) {
    int brown = 0, grey = 0, pale = 0;
    for (std::uint32_t seed = 1; seed <= 200; ++seed) {
        const Stained s(seed);
        if (s.piece.cover.empty()) continue;
        Mask dense(kSize, CV_8U, cv::Scalar(0));
        dense(s.piece.cover.box).setTo(255, s.piece.cover.share > 0.5f);
        if (cv::countNonZero(dense) < 100) continue;
        const cv::Scalar was = cv::mean(s.clean, dense), now = cv::mean(s.worn, dense);
        const double red = now[0] / was[0], blue = now[2] / was[2];
        brown += red < 1 && blue < 0.95 * red;
        grey += red < 0.97 && std::abs(blue - red) < 0.03;
        pale += red > 1.03 && blue > 1.03;
    }
    EXPECT_GT(brown, 30);
    EXPECT_GT(grey, 8);
    EXPECT_GT(pale, 15);
}

TEST(Wear, WithVarietyStainsPrintsInManyWays) {
    const WearPlan plan{
        .medium = Medium::Print, .seed = 5, .amount = 3, .variety = 1, .harm = true};
    const Worn w = wear(testkit::sky({900, 700}), plan);
    EXPECT_GT(cv::countNonZero(w.map(WearKind::Stain)), 1000);
}

}  // namespace
}  // namespace gq::sim
