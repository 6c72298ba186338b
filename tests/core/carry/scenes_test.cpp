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

ImageF newsOf(const Image& first, const Image& second) {
    const auto frame = testkit::frameOf("f", kSize);
    Scenes scenes;
    scenes.add(sceneViewOf(first, frame.geometry));
    return scenes.newsIn(sceneViewOf(second, frame.geometry));
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
    scenes.add(sceneViewOf(upright, testkit::frameOf("f", kSize).geometry));
    const ImageF news =
        scenes.newsIn(sceneViewOf(turned(upright, Orientation::Turn90), frame.geometry));
    EXPECT_LT(cv::mean(news)[0], 0.1);
}

}  // namespace
}  // namespace gq::carry
