#include "tools/train/samples.h"

#include <gtest/gtest.h>

#include <algorithm>

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
    const auto [samples, looks] = lessonOf(worn, find::Origin::Negative, nullptr);
    ASSERT_FALSE(samples.labels.empty());
    EXPECT_EQ(samples.features.size(), samples.width * samples.labels.size());
    const auto blemishes = std::ranges::count(samples.labels, 1.0f);
    EXPECT_GT(blemishes, 3);
    EXPECT_LT(blemishes, std::ptrdiff_t(samples.labels.size()));
    EXPECT_TRUE(looks.looks.empty()) << "nobody told what is worth one";
}

TEST(WornAtRandom, GivesLooksAtNearlyAllBlemishes) {
    const auto worn = wornAtRandom(testkit::grass({800, 600}), sim::Medium::Negative, 3);
    const auto* scout = find::forestFor(find::Origin::Negative, find::Polarity::Light);
    const auto [samples, looks] = lessonOf(worn, find::Origin::Negative, scout);
    ASSERT_EQ(looks.looks.size(), looks.labels.size());
    EXPECT_LE(looks.looks.size(), samples.labels.size());
    EXPECT_GE(std::ranges::count(looks.labels, 1),
              std::ranges::count(samples.labels, 1.0f) * 8 / 10);
}

}  // namespace
}  // namespace gq::train
