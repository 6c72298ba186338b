#include "core/carry/chart_file.h"
#include "core/carry/chart_match.h"

#include <gtest/gtest.h>

#include "core/files/safe_write.h"
#include "core/pixels/pyramid.h"
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
    const int horizon = 300 + int(seed * 67 % 300);
    testkit::grass(kSize, seed)(Rect(0, horizon, kSize.width, kSize.height - horizon))
        .copyTo(out(Rect(0, horizon, kSize.width, kSize.height - horizon)));
    return testkit::dusty(out, kSpots);
}

/// The same grass below another sky.
constexpr int kHorizon = 350;
Image overTheSameGround(std::uint32_t seed) {
    const Rect ground(0, kHorizon, kSize.width, kSize.height - kHorizon);
    Image out = testkit::sky(kSize, seed);
    testkit::grass(kSize, 7)(ground).copyTo(out(ground));
    return out;
}

bool charts(const DustChart& chart, const Spot& s) {
    return std::any_of(chart.spots.begin(), chart.spots.end(),
                       [&](const auto& spot) { return spot.region.contains(Point(s.at)); });
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
    for (const auto& s : kSpots) hits += charts(*chart, s);
    EXPECT_EQ(hits, int(kSpots.size()));
    EXPECT_LE(chart->spots.size(), kSpots.size() + 1);
}

TEST(Consensus, KeepsKnownSpotsThatItsFramesCannotTellOfButNotWhatIsGone) {
    const auto known = chartOf(10);
    ASSERT_TRUE(known);
    const Spot cleaned = kSpots[0], hidden = kSpots[2];
    const Rect ground(0, 400, kSize.width, kSize.height - 400);
    Consensus c;
    for (std::uint32_t i = 21; i <= 26; ++i) {
        Image clean = testkit::sky(kSize, i);
        testkit::grass(kSize, i)(ground).copyTo(clean(ground));
        ASSERT_TRUE(c.add(testkit::dusty(clean, {kSpots.begin() + 1, kSpots.end()}),
                          testkit::frameOf("f", kSize)));
    }
    const auto alone = c.chart(), now = c.chart(&*known);
    ASSERT_TRUE(alone && now);
    EXPECT_FALSE(charts(*alone, hidden)) << "it lies in the grass, or this tests nothing";
    const auto match = matched(*known, *now);
    ASSERT_TRUE(match);
    EXPECT_EQ(match->gone + match->moved, 1) << words(*match);
    EXPECT_FALSE(charts(match->now, cleaned));
    for (size_t i = 1; i < kSpots.size(); ++i) EXPECT_TRUE(charts(match->now, kSpots[i])) << i;
}

TEST(Consensus, CutFramesTellOnlyOfWhatTheyReach) {
    const auto known = chartOf(10);
    ASSERT_TRUE(known);
    const Rect part(0, 0, kSize.width / 2, kSize.height);
    Consensus c;
    series::Frame sensor = testkit::frameOf("sensor", kSize);
    for (std::uint32_t i = 21; i <= 26; ++i) {
        const auto cut =
            asCut(testkit::frameOf("f", part.size()), Cut{kSize, Orientation::Upright, part.tl()});
        ASSERT_TRUE(cut);
        c.add(
            *Consensus::listen(testkit::dusty(testkit::sky(kSize, i), kSpots)(part), sensor, *cut));
    }
    const auto now = c.chart(&*known);
    ASSERT_TRUE(now);
    const auto match = matched(*known, *now);
    ASSERT_TRUE(match);
    EXPECT_EQ(match->gone + match->moved, 0) << words(*match);
    EXPECT_GT(match->still, 0) << words(*match);
    EXPECT_GT(match->untold, 0) << words(*match);
    for (const auto& spot : kSpots) EXPECT_TRUE(charts(match->now, spot)) << spot.at.x;
}

TEST(Consensus, BelievesAKnownSpotThatNoneOfItsFramesShowsClearly) {
    const Spot faint{{300, 150}, 9, 0.018f};
    Consensus c;
    for (std::uint32_t i = 1; i <= 3; ++i)
        ASSERT_TRUE(
            c.add(testkit::dusty(testkit::sky(kSize, i), {faint}), testkit::frameOf("f", kSize)));
    DustChart known = *c.chart();
    EXPECT_FALSE(charts(known, faint)) << "or this tests nothing";
    known.spots = {{disc(faint.at, faint.radius, kSize), 0.012f, 5, 9, {}},
                   {disc({600, 150}, 9, kSize), 0.2f, 5, 9, {}}};
    const auto now = c.chart(&known);
    ASSERT_TRUE(now);
    EXPECT_TRUE(charts(*now, faint));
    EXPECT_TRUE(now->untold.empty()) << "the other is not there";
    EXPECT_EQ(now->spots.size(), 1u);
}

TEST(Consensus, KeepsAKnownSpotOfUnknownDepth) {
    Consensus c;
    for (std::uint32_t i = 1; i <= 3; ++i)
        ASSERT_TRUE(c.add(testkit::sky(kSize, i), testkit::frameOf("f", kSize)));
    DustChart known = *c.chart();
    known.spots = {{disc({500, 150}, 9, kSize), 0, 1, 0, {}}};  // as marked by hand
    const auto now = c.chart(&known);
    ASSERT_TRUE(now);
    EXPECT_EQ(now->spots.size() + now->untold.size(), 1u);
}

TEST(Consensus, HearsTheFewCalmFramesAmongBusyOnes) {
    const std::vector<Spot> spots{{{250, 160}, 8, 0.05f}, {{640, 420}, 9, 0.06f}};
    Consensus c;
    for (std::uint32_t i = 1; i <= 12; ++i) {
        const Image clean = i % 4 == 0 ? testkit::sky(kSize, i) : testkit::grass(kSize, i);
        ASSERT_TRUE(c.add(testkit::dusty(clean, spots), testkit::frameOf("f", kSize)));
    }
    const auto chart = c.chart();
    ASSERT_TRUE(chart);
    for (const auto& s : spots) EXPECT_TRUE(charts(*chart, s)) << s.at;
    EXPECT_LE(chart->spots.size(), spots.size() + 1);
}

TEST(Consensus, TakesNoSceneThatStandsStillForDust) {
    Consensus c;
    for (std::uint32_t i = 0; i < 5; ++i) {
        Image frame = testkit::grass(kSize);
        frame -= cv::Scalar::all(1500 * i);
        ASSERT_TRUE(c.add(frame, testkit::frameOf("f", kSize)));
    }
    const auto chart = c.chart();
    ASSERT_FALSE(chart);
    EXPECT_EQ(chart.error().kind, Error::Kind::BadSetting);
    EXPECT_NE(chart.error().what.find("same scene"), std::string::npos);
}

TEST(Consensus, FindsDustInTheSkyOverGroundThatStandsStill) {
    const std::vector<Spot> spots{{{200, 100}, 9, 0.1f}, {{650, 180}, 11, 0.08f}};
    Consensus c;
    for (std::uint32_t i = 1; i <= 8; ++i)
        ASSERT_TRUE(
            c.add(testkit::dusty(overTheSameGround(i), spots), testkit::frameOf("f", kSize)));
    const auto chart = c.chart();
    ASSERT_TRUE(chart);
    for (const auto& s : spots) EXPECT_TRUE(charts(*chart, s)) << s.at;
    for (const auto& spot : chart->spots)
        EXPECT_LT(spot.region.box.y, kHorizon) << "the ground's own details";
    EXPECT_TRUE(chart->tellsOf({600, 150, 40, 40}));
    EXPECT_FALSE(chart->tellsOf({600, 450, 40, 40}));
}

TEST(Consensus, FindsNothingOnACleanSensor) {
    Consensus c;
    for (std::uint32_t i = 1; i <= 8; ++i)
        ASSERT_TRUE(c.add(testkit::sky(kSize, i), testkit::frameOf("f", kSize)));
    EXPECT_LE(c.chart()->spots.size(), 1u);
}

TEST(Consensus, OfLargeSensorsHalfTheSizeTellsTheSame) {
    const Size sensor(3601, 2400);
    const std::vector<Spot> spots{
        {{700, 500}, 14, 0.12f}, {{1800, 900}, 18, 0.1f}, {{2900, 700}, 12, 0.2f}};
    ASSERT_TRUE(Consensus::halfIsEnough(testkit::frameOf("f", sensor)));
    ASSERT_FALSE(Consensus::halfIsEnough(testkit::frameOf("f", kSize)));
    Consensus whole, half;
    for (std::uint32_t i = 1; i <= 4; ++i) {
        const Image pixels = testkit::dusty(testkit::sky(sensor, i), spots);
        series::Frame frame = testkit::frameOf("f", sensor);
        ASSERT_TRUE(whole.add(pixels, frame));
        if (i == 1) {  // the others were turned for good
            ASSERT_TRUE(half.add(halved(pixels), frame));
            continue;
        }
        frame.geometry.sensor = sensor;
        frame.geometry.storedTurn = Orientation::Turn90;
        frame.geometry.stored = {sensor.height, sensor.width};
        ASSERT_TRUE(half.add(halved(turned(pixels, Orientation::Turn90)), frame));
    }
    const auto a = whole.chart(), b = half.chart();
    ASSERT_TRUE(a && b);
    ASSERT_EQ(a->spots.size(), spots.size());
    ASSERT_EQ(b->spots.size(), spots.size());
    for (const auto& s : spots) {
        const auto at = [&](const DustChart& chart) {
            PointF best(-100, -100);
            for (const auto& c : chart.spots)
                if (cv::norm(c.region.centre() - s.at) < cv::norm(best - s.at))
                    best = c.region.centre();
            return best;
        };
        EXPECT_LT(cv::norm(at(*a) - s.at), 2.5);
        EXPECT_LT(cv::norm(at(*b) - at(*a)), 1.5);
    }
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
