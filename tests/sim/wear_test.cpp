#include "sim/wear.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"

namespace gq::sim {
namespace {

const Size kSize(900, 700);

class EveryMedium : public testing::TestWithParam<Medium> {};

TEST_P(EveryMedium, ChangesOnlyWhatItsMapsTell) {
    const Worn w = wear(testkit::sky(kSize), {.medium = GetParam(), .seed = 3, .harm = true});
    EXPECT_GT(w.pieces.size(), 5u);
    Mask covered(kSize, CV_8U, cv::Scalar(0));
    for (const auto& p : w.pieces) covered(p.cover.box).setTo(255, p.cover.share > 0);
    // A crease's shaded sides and the shade of lifted edges belong to no piece of their own.
    if (GetParam() != Medium::Print) {
        EXPECT_LE(testkit::worstOutside(w.clean, w.worn, covered), 1);
    }
    EXPECT_GT(cv::norm(w.clean, w.worn, cv::NORM_INF), 1000);
}

TEST_P(EveryMedium, GivesTheSameBitsForTheSameSeedAndOthersForAnother) {
    const Image clean = testkit::sky(kSize);
    const WearPlan plan{.medium = GetParam(), .seed = 8, .grain = 0.01f};
    WearPlan other = plan;
    other.seed = 9;
    EXPECT_TRUE(testkit::equal(wear(clean, plan).worn, wear(clean, plan).worn));
    EXPECT_FALSE(testkit::equal(wear(clean, plan).worn, wear(clean, other).worn));
}

TEST_P(EveryMedium, LeavesTheCleanPictureWithoutAnyAmount) {
    const Worn w = wear(testkit::sky(kSize), {.medium = GetParam(), .amount = 0});
    EXPECT_TRUE(w.pieces.empty());
    EXPECT_TRUE(testkit::equal(w.clean, w.worn));
}

INSTANTIATE_TEST_SUITE_P(Wear, EveryMedium,
                         testing::Values(Medium::Sensor, Medium::Negative, Medium::Positive,
                                         Medium::Print));

TEST(Wear, DimsOnSensorsAndLightensOnNegatives) {
    const Image clean = testkit::grass(kSize);
    const Worn dim = wear(clean, {.medium = Medium::Sensor}),
               light = wear(clean, {.medium = Medium::Negative});
    EXPECT_LT(cv::mean(dim.worn, dim.map())[1], cv::mean(dim.clean, dim.map())[1]);
    EXPECT_GT(cv::mean(light.worn, light.map())[1], cv::mean(light.clean, light.map())[1]);
}

}  // namespace
}  // namespace gq::sim
