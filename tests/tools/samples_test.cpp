#include "tools/train/samples.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"

namespace gq::train {
namespace {

TEST(WornAtRandom, IsTheSameForASeedAndLeavesItsPictureAlone) {
    const Image clean = testkit::grass({320, 240}), kept = clean.clone();
    for (const auto medium : {sim::Medium::Sensor, sim::Medium::Negative, sim::Medium::Print})
        for (std::uint32_t seed = 1; seed <= 40; ++seed) {
            const auto first = wornAtRandom(clean, medium, seed);
            ASSERT_TRUE(testkit::equal(clean, kept)) << seed;
            ASSERT_TRUE(testkit::equal(first.worn, wornAtRandom(clean, medium, seed).worn));
        }
}

TEST(WornAtRandom, GivesSamplesOfBlemishesAndOfThePicture) {
    const auto worn = wornAtRandom(testkit::grass({800, 600}), sim::Medium::Negative, 3);
    const Samples samples = samplesOf(worn, find::Origin::Negative);
    ASSERT_FALSE(samples.labels.empty());
    EXPECT_EQ(samples.features.size(), samples.width * samples.labels.size());
    const auto blemishes = std::count(samples.labels.begin(), samples.labels.end(), 1.0f);
    EXPECT_GT(blemishes, 3);
    EXPECT_LT(blemishes, std::ptrdiff_t(samples.labels.size()));
}

}  // namespace
}  // namespace gq::train
