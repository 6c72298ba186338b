#include "core/carry/chart_file.h"

#include <gtest/gtest.h>

#include "core/files/safe_write.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

using testkit::Spot;

const Size kSize(900, 700);
const std::vector<Spot> kSpots{{{150, 120}, 9, 0.06f},
                               {{400, 200}, 14, 0.05f},
                               {{720, 500}, 8, 0.2f},
                               {{300, 280}, 20, 0.04f}};

/// Frames of sky above and grass below, each framed otherwise.
Image frame(std::uint32_t seed) {
    Image out = testkit::sky(kSize, seed);
    const int horizon = 300 + int(seed % 4) * 90;
    testkit::grass(kSize, seed)(Rect(0, horizon, kSize.width, kSize.height - horizon))
        .copyTo(out(Rect(0, horizon, kSize.width, kSize.height - horizon)));
    return testkit::dusty(out, kSpots);
}

Result<DustChart> chartOf(int frames) {
    Consensus c;
    for (int i = 0; i < frames; ++i)
        EXPECT_TRUE(c.add(frame(std::uint32_t(i + 1)), testkit::frameOf("f", kSize)));
    return c.chart();
}

TEST(Consensus, FindsDustThatEachFrameShowsOnlyInPart) {
    const auto chart = chartOf(10);
    ASSERT_TRUE(chart);
    EXPECT_EQ(chart->frames, 10);
    int hits = 0;
    for (const auto& s : kSpots)
        hits += std::any_of(chart->spots.begin(), chart->spots.end(), [&](const auto& c) {
            return c.region.contains({int(s.at.x), int(s.at.y)});
        });
    EXPECT_EQ(hits, int(kSpots.size()));
    EXPECT_LE(chart->spots.size(), kSpots.size() + 1);
}

TEST(Consensus, FindsNothingOnACleanSensor) {
    Consensus c;
    for (std::uint32_t i = 1; i <= 8; ++i)
        ASSERT_TRUE(c.add(testkit::sky(kSize, i), testkit::frameOf("f", kSize)));
    EXPECT_LE(c.chart()->spots.size(), 1u);
}

TEST(Consensus, AsksForThreeFramesOfOneCamera) {
    EXPECT_FALSE(chartOf(2));
    Consensus c;
    ASSERT_TRUE(c.add(frame(1), testkit::frameOf("a", kSize)));
    series::Frame other = testkit::frameOf("b", kSize);
    other.camera = "another";
    EXPECT_EQ(c.add(frame(2), other).error().kind, Error::Kind::Refused);
}

TEST(ChartFile, ComesBackAsItWasWritten) {
    testkit::Scratch dir;
    const auto chart = chartOf(4);
    ASSERT_TRUE(chart);
    ASSERT_TRUE(files::writeTextSafely(dir / "c.json", chartText(*chart)));
    const auto back = loadChart(dir / "c.json");
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(chartText(*back), chartText(*chart));
    EXPECT_EQ(asReference(*back).mends.size(), chart->spots.size());
    ASSERT_TRUE(files::writeTextSafely(dir / "bad.json", "{}"));
    EXPECT_FALSE(loadChart(dir / "bad.json"));
}

}  // namespace
}  // namespace gq::carry
