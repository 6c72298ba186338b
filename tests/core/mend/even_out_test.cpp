#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"
#include "tests/core/mend/mended.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

using testkit::psnr;

/// A soft disc over which `change` turns a value and the share of the disc into another value.
template <class Change>
Image patched(const Image& clean, PointF at, float radius, const Change& change) {
    Image out = clean.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float d = radius - std::hypot(float(x) - at.x, float(y) - at.y);
            const float share = 1 / (1 + std::exp(-d / 2)), rim = std::exp(-d * d / 18);
            for (int c = 0; c < 3; ++c) {
                auto& v = out.ptr<ushort>(y)[3 * x + c];
                v = ushort(65535 * change(float(v) / 65535, c, share, rim));
            }
        }
    return out;
}

struct EvenOut : ::testing::Test {
    const Size size{600, 500};
    const Image clean = testkit::grass(size);
    Mask where{size, CV_8U, cv::Scalar(0)};

    Image evened(const Image& worn) {
        Mend m;
        m.region = disc({300, 250}, 90, size);
        m.method = Method::EvenOut;
        paint(where, m.region);
        return mended(worn, m);
    }
};

TEST_F(EvenOut, TakesTintAndRimAwayAndKeepsTheDetail) {
    constexpr float kTaken[] = {0.1f, 0.2f, 0.35f};
    const Image worn = patched(clean, {300, 250}, 90, [&](float v, int c, float share, float rim) {
        return v * (1 - kTaken[c] * share - 0.1f * rim);
    });
    const Image out = evened(worn);
    EXPECT_GT(psnr(out, clean, where), psnr(worn, clean, where) + 8);
}

TEST_F(EvenOut, LeavesNoRimOnAPrintOfOneColour) {
    constexpr float kTaken[] = {0.1f, 0.2f, 0.35f};
    Image toned = clean.clone();
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            auto& v = toned.at<cv::Vec3w>(y, x);
            const float tone = float(v[0] + v[1] + v[2]) / 3;
            v = cv::Vec3w(ushort(tone), ushort(tone * 0.9f), ushort(tone * 0.75f));
        }
    const Image worn = patched(toned, {300, 250}, 90, [&](float v, int c, float share, float rim) {
        return v * (1 - kTaken[c] * (0.7f * share + 0.9f * rim));
    });
    const Image out = evened(worn);
    Mask ring(size, CV_8U, cv::Scalar(0));
    paint(ring, without(disc({300, 250}, 96, size), disc({300, 250}, 80, size)));
    EXPECT_GT(psnr(out, toned, ring), psnr(worn, toned, ring) + 18);
}

TEST_F(EvenOut, LeavesLittleOfATintWhoseOutlineIsFrayed) {
    constexpr float kTaken[] = {0.1f, 0.2f, 0.35f};
    Image worn = clean.clone();
    Mask outline(size, CV_8U, cv::Scalar(0)), deep = outline.clone();
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const float frayed = 8 * fractalNoise(7, float(x) / 24, float(y) / 24, 3),
                        d = 90 + frayed - std::hypot(float(x) - 300, float(y) - 250),
                        share = 1 / (1 + std::exp(-d / 2));
            for (int c = 0; c < 3; ++c) {
                auto& v = worn.ptr<ushort>(y)[3 * x + c];
                v = ushort(float(v) * (1 - kTaken[c] * share));
            }
            if (share > 0.15f) outline.at<uchar>(y, x) = 255;
            if (d > 35) deep.at<uchar>(y, x) = 255;
        }
    Mend m;
    m.region = regionOf(outline);
    m.method = Method::EvenOut;
    const cv::Scalar after = cv::mean(mended(worn, m), deep), truth = cv::mean(clean, deep);
    for (int c = 0; c < 3; ++c) EXPECT_NEAR(after[c] / truth[c], 1, 0.045) << c;
}

TEST_F(EvenOut, TakesGreyDirtAway) {
    const Image worn = patched(clean, {300, 250}, 90, [](float v, int, float share, float) {
        return v * (1 - 0.2f * share);
    });
    const Image out = evened(worn);
    EXPECT_GT(psnr(out, clean, where), psnr(worn, clean, where) + 8);
}

TEST_F(EvenOut, BringsBackTonesAndContrastOfAFadedPatch) {
    const Image worn = patched(clean, {300, 250}, 90, [](float v, int, float share, float) {
        return v + (0.97f - v) * 0.3f * share;
    });
    const Image out = evened(worn);
    EXPECT_GT(psnr(out, clean, where), psnr(worn, clean, where) + 8);
    cv::Scalar mean, before, after;
    cv::meanStdDev(clean, mean, before, where);
    cv::meanStdDev(out, mean, after, where);
    EXPECT_NEAR(after[1] / before[1], 1, 0.15) << "divided by a paler tone, blacks stay grey";
}

TEST_F(EvenOut, TakesAStainAwayThatGoesOnUnderAScannersBed) {
    constexpr float kTaken[] = {0.1f, 0.2f, 0.35f};
    const Rect bed(0, 440, 600, 60);
    Image print = clean.clone();
    print(bed).setTo(cv::Scalar::all(9000));
    Image worn = patched(print, {300, 470}, 130, [&](float v, int c, float share, float rim) {
        return v * (1 - kTaken[c] * share - 0.1f * rim);
    });
    print(bed).copyTo(worn(bed));
    Mend m;
    m.region = without(disc({300, 470}, 130, size), {bed, Mask(bed.size(), CV_8U, 255)});
    m.method = Method::EvenOut;
    paint(where, m.region);
    const Image out = mended(worn, m);
    EXPECT_GT(psnr(out, print, where), psnr(worn, print, where) + 8);
    EXPECT_TRUE(testkit::equal(out({0, 460, 600, 40}), worn({0, 460, 600, 40}))) << "the bed";
}

TEST_F(EvenOut, KeepsWhatAnEarlierMendPutInTheStain) {
    const Image worn = patched(clean, {300, 250}, 90, [](float v, int, float share, float) {
        return v * (1 - 0.2f * share);
    });
    Mend m;
    m.region = disc({300, 250}, 90, size);
    m.method = Method::EvenOut;
    const std::vector<Region> others{disc({290, 240}, 12, size)};
    const auto patch = makePatch({worn, others}, m);
    ASSERT_TRUE(patch);
    Image out = worn.clone();
    lay(*patch, out);
    paint(where, others[0]);
    EXPECT_GT(psnr(out, clean, where), psnr(worn, clean, where) + 8)
        << "evened out like the rest, not filled";
}

}  // namespace
}  // namespace gq::mend
