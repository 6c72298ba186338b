#include "core/carry/scenes.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/carry/chart.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(900, 600);
const Rect kGround(0, 300, 900, 300);

/// The same ground below another sky.
Image timeLapse(std::uint32_t seed) {
    Image out = testkit::sky(kSize, seed);
    testkit::grass(kSize, 7)(kGround).copyTo(out(kGround));
    return out;
}

ImageF newsOf(const Image& first, const Image& second) {
    const auto frame = testkit::frameOf("f", kSize);
    Scenes scenes;
    scenes.add(sceneViewOf(first, frame));
    return scenes.newsIn(sceneViewOf(second, frame));
}

TEST(Scenes, WhatStandsStillIsNoNewsAndWhatMovesIs) {
    const ImageF news = newsOf(timeLapse(1), timeLapse(2));
    EXPECT_GT(meanAt(news, {50, 20, 800, 200}, kSize), 0.95f) << "the sky";
    EXPECT_LT(meanAt(news, {50, 380, 800, 200}, kSize), 0.05f) << "the ground";
}

TEST(Scenes, ABracketShowsOneScene) {
    const Image bright = testkit::grass(kSize);
    Image dark = bright.clone();
    for (auto& v : cv::Mat_<ushort>(dark.reshape(1))) v = ushort(v / 2);
    EXPECT_LT(cv::mean(newsOf(bright, dark))[0], 0.05);
}

TEST(Scenes, DustDoesNotMakeTwoSkiesAlike) {
    std::vector<testkit::Spot> spots;
    for (int i = 0; i < 24; ++i)
        spots.push_back({{40.0f + float(i % 6) * 150, 40.0f + float(i / 6) * 150}, 9, 0.2f});
    const ImageF news = newsOf(testkit::dusty(testkit::sky(kSize, 1), spots),
                               testkit::dusty(testkit::sky(kSize, 2), spots));
    for (const auto& s : spots)
        EXPECT_GT(meanAt(news, Rect(Point(s.at), Size(1, 1)), kSize), 0.8f) << s.at;
}

TEST(Scenes, FramesTurnedForGoodAreComparedOnTheSensor) {
    const Image upright = testkit::grass(kSize);
    auto frame = testkit::frameOf("f", {600, 900});
    frame.geometry.storedTurn = Orientation::Turn90;
    frame.geometry.sensor = kSize;
    Scenes scenes;
    scenes.add(sceneViewOf(upright, testkit::frameOf("f", kSize)));
    const ImageF news = scenes.newsIn(sceneViewOf(turned(upright, Orientation::Turn90), frame));
    EXPECT_LT(cv::mean(news)[0], 0.1);
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
    const std::vector<testkit::Spot> spots{{{200, 100}, 9, 0.1f}, {{650, 180}, 11, 0.08f}};
    Consensus c;
    for (std::uint32_t i = 1; i <= 8; ++i)
        ASSERT_TRUE(c.add(testkit::dusty(timeLapse(i), spots), testkit::frameOf("f", kSize)));
    const auto chart = c.chart();
    ASSERT_TRUE(chart);
    for (const auto& s : spots)
        EXPECT_TRUE(std::any_of(chart->spots.begin(), chart->spots.end(), [&](const auto& spot) {
            return spot.region.contains(Point(s.at));
        })) << s.at;
    for (const auto& spot : chart->spots)
        EXPECT_LT(spot.region.box.y, kGround.y) << "the ground's own details";
    EXPECT_TRUE(chart->tellsOf({600, 150, 40, 40}));
    EXPECT_FALSE(chart->tellsOf({600, 450, 40, 40}));
}

}  // namespace
}  // namespace gq::carry
