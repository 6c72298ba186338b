#include "core/find/forest.h"

#include <gtest/gtest.h>

#include "core/find/confidence.h"

namespace gq::find {
namespace {

/// One tree of one split: on the candidate's own strength at 0.2.
std::string oneSplit(int features = kFeatureCount) {
    return R"({"features": )" + std::to_string(features) + R"(, "depth": 1, "trees":
        [{"split": [)" +
           std::to_string(int(Own)) + R"(], "at": [0.2], "leaf": [-1.5, 2.5]}]})";
}

TEST(Forest, GivesTheLeafThatTheSplitsLeadTo) {
    const auto forest = Forest::read(oneSplit());
    ASSERT_TRUE(forest);
    Features f{};
    f[Own] = 0.1f;
    EXPECT_FLOAT_EQ(forest->logOdds(f), -1.5f);
    f[Own] = 0.2f;
    EXPECT_FLOAT_EQ(forest->logOdds(f), 2.5f);
}

TEST(Forest, RefusesWhatItCannotRead) {
    for (const std::string& bad :
         {std::string("no json"), std::string("{}"), oneSplit(3),
          std::string(R"({"features": )") + std::to_string(int(kFeatureCount)) +
              R"(, "depth": 2, "trees": [{"split": [0], "at": [0], "leaf": [0, 1]}]})"})
        EXPECT_FALSE(Forest::read(bad)) << bad;
}

TEST(Forest, IsThereForEachOriginsOwnDust) {
    EXPECT_NE(forestFor(Origin::Sensor, Polarity::Dark), nullptr);
    EXPECT_EQ(forestFor(Origin::Sensor, Polarity::Light), nullptr);
    EXPECT_NE(forestFor(Origin::Negative, Polarity::Light),
              forestFor(Origin::Negative, Polarity::Dark));
}

TEST(Confidence, OfARuleRisesWithStrengthAndFallsWithRestlessSurroundings) {
    Features f{};
    f[PeakOverNoise] = 12;
    f[MeanMiddle] = 12;
    f[NearSectorLeast] = 0.8f;
    f[NearSpread] = 0.2f;
    const float plain = ruleLogOdds(f);
    Features stronger = f, restless = f;
    stronger[PeakOverNoise] = 24;
    restless[NearSpread] = 1;
    EXPECT_GT(ruleLogOdds(stronger), plain);
    EXPECT_LT(ruleLogOdds(restless), plain);
}

TEST(Confidence, AsLogOddsAndBackIsTheSameOffItsEnds) {
    for (const float p : {0.001f, 0.3f, 0.5f, 0.97f})
        EXPECT_NEAR(probability(logOdds(p)), p, 1e-5f);
    EXPECT_NEAR(probability(logOdds(0)), 1e-4f, 1e-6f);
    EXPECT_NEAR(probability(logOdds(1)), 1 - 1e-4f, 1e-6f);
}

}  // namespace
}  // namespace gq::find
