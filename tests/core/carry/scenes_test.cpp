#include "core/carry/scenes.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

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

ImageF newsBetween(const Image& first, const Image& second) {
    const auto frame = testkit::frameOf("f", kSize);
    Scenes scenes;
    scenes.add(sceneViewOf(first, frame.geometry));
    return scenes.newsIn(sceneViewOf(second, frame.geometry)).front();
}

TEST(Scenes, WhatStandsStillIsNoNewsAndWhatMovesIs) {
    const ImageF news = newsBetween(timeLapse(1), timeLapse(2));
    EXPECT_GT(meanAt(news, {50, 20, 800, 200}, kSize), 0.95f) << "the sky";
    EXPECT_LT(meanAt(news, {50, 380, 800, 200}, kSize), 0.05f) << "the ground";
}

TEST(Scenes, ABracketShowsOneScene) {
    const Image bright = testkit::grass(kSize);
    Image dark = bright.clone();
    for (auto& v : cv::Mat_<ushort>(dark.reshape(1))) v = ushort(v / 2);
    EXPECT_LT(cv::mean(newsBetween(bright, dark))[0], 0.05);
}

/// News of each scale of a view that shows a scene moved by that much.
News newsOfMoved(const Point& by) {
    const Image scene = testkit::stones({1300, 900});
    const auto frame = testkit::frameOf("f", kSize);
    Scenes scenes;
    scenes.add(sceneViewOf(scene(Rect({100, 100}, kSize)), frame.geometry));
    return scenes.newsIn(sceneViewOf(scene(Rect(Point(100, 100) + by, kSize)), frame.geometry));
}

TEST(Scenes, AHandThatMovesALittleShowsOneSceneToThingsOfAllSizes) {
    for (const auto& news : newsOfMoved({9, -6})) EXPECT_LT(cv::mean(news)[0], 0.1) << news.size();
}

TEST(Scenes, AFurtherMoveIsNewsToSmallThingsAlone) {
    const News news = newsOfMoved({50, 0});
    EXPECT_GT(cv::mean(newsOf(news, 8, kSize))[0], 0.8);
    EXPECT_LT(cv::mean(newsOf(news, 90, kSize))[0], 0.2);
}

TEST(Scenes, DustDoesNotMakeTwoSkiesAlike) {
    std::vector<testkit::Spot> spots;
    for (int i = 0; i < 24; ++i)
        spots.push_back({{40.0f + float(i % 6) * 150, 40.0f + float(i / 6) * 150}, 9, 0.2f});
    const ImageF news = newsBetween(testkit::dusty(testkit::sky(kSize, 1), spots),
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
    scenes.add(sceneViewOf(upright, testkit::frameOf("f", kSize).geometry));
    const ImageF news =
        scenes.newsIn(sceneViewOf(turned(upright, Orientation::Turn90), frame.geometry)).front();
    EXPECT_LT(cv::mean(news)[0], 0.1);
}

}  // namespace
}  // namespace gq::carry
