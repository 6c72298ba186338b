#include "core/carry/charted_mends.h"

#include <gtest/gtest.h>

#include "core/carry/confirm.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(600, 400);
const testkit::Spot kSpot{{200, 150}, 9, 0.3f};

Image clean(std::uint32_t i) {
    return testkit::sky(kSize, i);
}

/// What five dusty frames tell of their sensor.
const DustChart& known() {
    static const DustChart chart = [] {
        std::vector<series::FramePtr> frames;
        for (int i = 1; i <= 5; ++i)
            frames.push_back(
                std::make_shared<const series::Frame>(testkit::frameOf(std::to_string(i), kSize)));
        const PixelSource pixels = [](const series::Frame& f, std::stop_token) -> Result<Image> {
            return testkit::dusty(clean(std::uint32_t(std::stoi(f.id))), {kSpot});
        };
        return *withShadows(*chartOf(*frames.front(), frames, pixels), frames, pixels);
    }();
    return chart;
}

/// A frame with a finding of the chart there, healed.
series::Frame healed(float radius) {
    auto f = testkit::frameOf("6", kSize);
    find::Finding found;
    found.region = disc(kSpot.at, radius, kSize);
    f.findings.push_back({1, found, false, true});
    f.mends.push_back({2, {.region = disc(kSpot.at, radius + 4, kSize)}, 1, false});
    return f;
}

std::vector<series::MendEntry> divided(const series::Frame& frame, const Image& pixels,
                                       const std::vector<series::Id>& findings) {
    return dividedByChart(frame, pixels, {known()}, findings).mends;
}

mend::Method methodIn(const series::Frame& frame, const Image& pixels,
                      const std::vector<series::Id>& findings = {1}) {
    return divided(frame, pixels, findings).at(0).mend.method;
}

TEST(ChartedMends, DivideOutTheShadowThatTheFrameShows) {
    ASSERT_EQ(known().spots.size(), 1u);
    ASSERT_FALSE(known().spots[0].shadow.empty());
    const Image dusty = testkit::dusty(clean(6), {kSpot});
    EXPECT_EQ(methodIn(healed(8), dusty), mend::Method::Unshade);
    EXPECT_EQ(methodIn(healed(8), dusty, {}), mend::Method::Heal) << "not asked for";
    EXPECT_EQ(methodIn(healed(8), clean(6)), mend::Method::Heal) << "not there any more";
}

TEST(ChartedMends, StayWhereTheFindingIsNotOneShadowOfTheChart) {
    const Image dusty = testkit::dusty(clean(6), {kSpot});
    const Region second = disc({260, 150}, 9, kSize);
    DustChart two = known();
    two.spots.push_back({second, 0.3f, 5, 6, {}});
    auto both = healed(10);
    auto& found = both.findings[0].finding.region;
    found = together(found, second);
    EXPECT_EQ(dividedByChart(both, dusty, {known()}, {1}).mends[0].mend.method,
              mend::Method::Unshade);
    EXPECT_EQ(dividedByChart(both, dusty, {two}, {1}).mends[0].mend.method, mend::Method::Heal)
        << "the other would be left";
    auto other = healed(8);
    other.findings[0].charted = false;
    EXPECT_EQ(methodIn(other, dusty), mend::Method::Heal);
    other = healed(8);
    other.camera = "Sandpiper Breaker 3";
    EXPECT_EQ(methodIn(other, dusty), mend::Method::Heal);
}

TEST(ChartedMends, AreAddedWhereTheKnownShadowShowsOnBusyGround) {
    const auto added = [](const Image& pixels) {
        series::Id next = 1;
        return confirmed(testkit::frameOf("6", kSize), pixels, known(), next).findings;
    };
    const Image grass = testkit::grass(kSize, 3);
    const auto there = added(testkit::dusty(grass, {kSpot}));
    ASSERT_EQ(there.size(), 1u);
    EXPECT_GT(there[0].finding.confidence, 0.5f);
    EXPECT_TRUE(there[0].charted);
    EXPECT_TRUE(added(grass).empty());
}

TEST(ChartedMends, AreOneAPlace) {
    auto twice = healed(8);
    twice.findings.push_back({3, twice.findings[0].finding, false, true});
    twice.mends.push_back({4, twice.mends[0].mend, 3, false});
    const auto out = divided(twice, testkit::dusty(clean(6), {kSpot}), {1, 3});
    EXPECT_EQ(out[0].mend.method, mend::Method::Unshade);
    EXPECT_EQ(out[1].mend.method, mend::Method::Heal) << "else it would be divided twice";
}

}  // namespace
}  // namespace gq::carry
