#include "core/carry/slopes.h"

#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"

namespace gq::carry {
namespace {

const Size kSize(100, 100);

/// Log share of light that a soft disc lets through.
ImageF disc(float depth, double sigma = 2.5, float radius = 10) {
    ImageF held(kSize, CV_32F, cv::Scalar(0)), out;
    cv::circle(held, {50, 50}, int(radius), cv::Scalar(double(depth)), -1, cv::LINE_AA);
    cv::GaussianBlur(held, held, {}, sigma);
    cv::log(ImageF(1 - held), out);
    return out;
}

/// A frame's departure: grain, and clouds of the given depth.
Departure frame(std::uint32_t seed, float grain, float clouds = 0) {
    Departure out;
    out.logs.create(kSize, CV_32F);
    out.trust = ImageF(kSize, CV_32F, cv::Scalar(1));
    for (int y = 0; y < kSize.height; ++y)
        for (int x = 0; x < kSize.width; ++x)
            out.logs.at<float>(y, x) =
                grain * hashNormal(seed, x, y, 0) +
                clouds * fractalNoise(seed, float(x) * 0.02f, float(y) * 0.02f, 3);
    out.told = true;
    return out;
}

const Mask kCover = disc(0.2f) < -0.002f;

TEST(Slopes, TellAShadowsStrengthFromGrainAndClouds) {
    for (const float clouds : {0.0f, 0.15f})
        for (const float strength : {0.5f, 1.0f, 1.4f}) {
            Departure seen = frame(3, 0.01f, clouds);
            seen.logs += disc(0.2f) * double(strength);
            const auto m = Slopes(seen, kCover).match(disc(0.2f));
            EXPECT_NEAR(m.strength, double(strength), 0.2) << clouds;
            EXPECT_GT(m.told, 4);
            EXPECT_LT(m.error, 0.3);
        }
}

TEST(Slopes, SayNothingOfWhatIsNotThere) {
    int told = 0;
    for (std::uint32_t seed = 1; seed <= 40; ++seed)
        told += Slopes(frame(seed, 0.01f, seed % 2 ? 0.15f : 0), kCover).match(disc(0.1f)).told > 3;
    EXPECT_LE(told, 2);
}

TEST(Slopes, AreNotMisledByAWireAcross) {
    Departure seen = frame(5, 0.01f), with = seen;
    for (Departure* d : {&seen, &with}) d->logs = d->logs.clone();
    with.logs += disc(0.2f);
    for (Departure* d : {&seen, &with})
        cv::line(d->logs, {0, 44}, {99, 52}, cv::Scalar(-0.8), 2, cv::LINE_AA);
    EXPECT_LT(Slopes(seen, kCover).match(disc(0.2f)).told, 3);
    const auto m = Slopes(with, kCover).match(disc(0.2f));
    EXPECT_NEAR(m.strength, 1, 0.5) << "the wire hides a fifth of it";
    EXPECT_GT(m.told, 4);
}

TEST(Slopes, PreferTheSoftnessTheFrameShows) {
    Departure seen = frame(7, 0.006f);
    seen.logs += disc(0.2f, 4.5);
    const Slopes slopes(seen, kCover);
    const double sharper = slopes.match(disc(0.2f, 2)).told,
                 alike = slopes.match(disc(0.2f, 4.5)).told,
                 softer = slopes.match(disc(0.2f, 9)).told;
    EXPECT_GT(alike, sharper);
    EXPECT_GT(alike, softer);
}

TEST(Slopes, TellNothingWhereTheFrameIsClipped) {
    Departure seen = frame(9, 0.01f);
    seen.logs += disc(0.2f);
    seen.trust.setTo(0);
    const auto m = Slopes(seen, kCover).match(disc(0.2f));
    EXPECT_EQ(m.told, 0);
    EXPECT_GT(m.error, 100);
}

}  // namespace
}  // namespace gq::carry
