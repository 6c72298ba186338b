#include "core/carry/confirm.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(600, 400);
const testkit::Spot kSpot{{200, 150}, 9, 0.2f};

DustChart chartWith(const std::vector<PointF>& places) {
    DustChart chart;
    chart.sensor = kSize;
    chart.frames = 5;
    chart.camera = testkit::frameOf("f", kSize).camera;
    for (const auto& p : places) chart.spots.push_back({disc(p, 10, kSize), 0.2f, 5, 8, {}});
    return chart;
}

series::Frame frameWith(const std::vector<PointF>& found, float confidence) {
    series::Frame f = testkit::frameOf("f", kSize);
    series::Id id = 1;
    for (const auto& p : found) {
        find::Finding one;
        one.region = disc(p, 8, kSize);
        one.confidence = confidence;
        f.findings.push_back({id++, std::move(one), false, false});
    }
    return f;
}

TEST(Confirmed, FindingsOfTheChartBecomeSurerAndOthersLessSure) {
    series::Id next = 10;
    const auto f = confirmed(frameWith({{200, 150}, {450, 300}}, 0.5f), testkit::sky(kSize),
                             chartWith({{202, 151}}), next);
    ASSERT_EQ(f.findings.size(), 2u);
    EXPECT_TRUE(f.findings[0].charted);
    EXPECT_GT(f.findings[0].finding.confidence, 0.8f);
    EXPECT_FALSE(f.findings[1].charted);
    EXPECT_LT(f.findings[1].finding.confidence, 0.5f);
    EXPECT_EQ(next, 10u);
}

TEST(Confirmed, FindingsThatTheFramesCannotTellOfStayAsTheyWere) {
    auto chart = chartWith({{202, 151}});
    chart.told = ImageF(40, 60, CV_32F, cv::Scalar(1));  // all frames show one scene
    series::Id next = 10;
    const auto f = confirmed(frameWith({{450, 300}}, 0.5f), testkit::sky(kSize), chart, next);
    EXPECT_EQ(f.findings[0].finding.confidence, 0.5f);
    chart.told = 5;
    const auto other = confirmed(frameWith({{450, 300}}, 0.5f), testkit::sky(kSize), chart, next);
    EXPECT_LT(other.findings[0].finding.confidence, 0.4f);
}

TEST(Confirmed, AddsAPlaceThatShowsAndNoneThatDoesNot) {
    const auto chart = chartWith({kSpot.at, {450, 300}});
    series::Id next = 10;
    const auto f =
        confirmed(frameWith({}, 0), testkit::dusty(testkit::sky(kSize), {kSpot}), chart, next);
    ASSERT_EQ(f.findings.size(), 1u);
    EXPECT_TRUE(f.findings[0].finding.region.contains(Point(kSpot.at)));
    EXPECT_TRUE(f.findings[0].charted);
    EXPECT_GT(f.findings[0].finding.measures.contrast, 0.1f);
    EXPECT_EQ(next, 11u);
}

TEST(Confirmed, ADarkThingOnBusyGroundIsNotTheFaintShadowThere) {
    auto chart = chartWith({kSpot.at});
    const Image dark = testkit::dusty(testkit::grass(kSize), {{kSpot.at, 9, 0.7f}});
    const auto confidence = [&](float depth) {
        series::Id next = 10;
        chart.spots[0].depth = depth;
        const auto f = confirmed(frameWith({}, 0), dark, chart, next);
        return f.findings.at(0).finding.confidence;
    };
    EXPECT_GT(confidence(0.5f), 0.5f);
    EXPECT_LT(confidence(0.02f), 0.5f) << "below the default line";
}

TEST(Confirmed, AFindingFarLargerThanThePlaceItMeetsIsNotOfIt) {
    auto frame = frameWith({}, 0);
    find::Finding edge;
    edge.region = stroke({{190, 150}, {500, 160}}, 8, kSize);
    edge.confidence = 0.3f;
    frame.findings.push_back({1, edge, false, false});
    series::Id next = 10;
    const auto f = confirmed(frame, testkit::sky(kSize), chartWith({kSpot.at}), next);
    ASSERT_EQ(f.findings.size(), 1u);
    EXPECT_FALSE(f.findings[0].charted);
    EXPECT_LT(f.findings[0].finding.confidence, 0.3f);
}

TEST(Confirmed, JudgesNothingTwiceThatWasLeftOrMended) {
    auto before = frameWith({{200, 150}, {450, 300}}, 0.5f);
    before.findings[0].left = true;
    before.mends.push_back({5, {disc({450, 300}, 9, kSize)}, before.findings[1].id, false});
    series::Id next = 10;
    const auto after = confirmed(before, testkit::sky(kSize), chartWith({{200, 150}}), next);
    for (const auto& e : after.findings) EXPECT_FLOAT_EQ(e.finding.confidence, 0.5f);
}

TEST(Confirmed, ABroadMarkOfTheSeriesIsOneFindingOfTheFramesItDims) {
    const Size large(1500, 1000);
    Image dimmed = testkit::sky(large);
    for (int y = 0; y < large.height; ++y)
        for (int x = 0; x < large.width; ++x)
            dimmed.at<cv::Vec<ushort, 3>>(y, x) *=
                1 - 0.08 * std::exp(-((x - 900) * (x - 900) + (y - 400) * (y - 400)) / 7200.0);
    auto frame = testkit::frameOf("f", large);
    DustChart chart;
    chart.sensor = large;
    chart.camera = frame.camera;
    find::Finding haze;
    haze.region = disc({900, 400}, 60, large);
    haze.measures = {.contrast = 0.06f, .size = 120};
    chart.hazes = {haze};
    series::Id next = 10;
    const auto with = confirmed(frame, dimmed, chart, next);
    ASSERT_EQ(with.findings.size(), 1u);
    EXPECT_TRUE(with.findings[0].charted);
    EXPECT_GT(with.findings[0].finding.confidence, 0.5f) << "above the default line";
    EXPECT_TRUE(confirmed(frame, testkit::sky(large), chart, next).findings.empty());
    haze.confidence = 0.3f;
    frame.findings.push_back({1, haze, false, false});
    const auto tied = confirmed(frame, dimmed, chart, next);
    ASSERT_EQ(tied.findings.size(), 1u);
    EXPECT_GT(tied.findings[0].finding.confidence, 0.8f);
}

TEST(Confirmed, LeavesFramesOfAnotherCameraAlone) {
    auto chart = chartWith({kSpot.at});
    chart.camera = "Sandpiper Breaker 3";
    series::Id next = 10;
    const auto f = confirmed(frameWith({{450, 300}}, 0.5f),
                             testkit::dusty(testkit::sky(kSize), {kSpot}), chart, next);
    ASSERT_EQ(f.findings.size(), 1u);
    EXPECT_FLOAT_EQ(f.findings[0].finding.confidence, 0.5f);
}

}  // namespace
}  // namespace gq::carry
