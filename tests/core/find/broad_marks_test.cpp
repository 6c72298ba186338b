#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/bared_paper.h"
#include "core/find/find.h"
#include "core/find/losses.h"
#include "core/find/stains.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(900, 700);

/// A print of one tone: brownish greys.
Image toned() {
    Image out = testkit::sky(kSize);
    for (auto& v : cv::Mat_<cv::Vec<ushort, 3>>(out)) {
        const auto g = double(v[1]) * 0.7;
        v = {cv::saturate_cast<ushort>(g * 1.05), cv::saturate_cast<ushort>(g),
             cv::saturate_cast<ushort>(g * 0.86)};
    }
    return out;
}

/// Tints a disc as a stain does; with `darker` what lies there has another tone too.
void tint(Image& print, const Region& where, double darker = 1) {
    for (int y = 0; y < where.box.height; ++y)
        for (int x = 0; x < where.box.width; ++x)
            if (where.mask.at<uchar>(y, x)) {
                auto& v = print.at<cv::Vec<ushort, 3>>(where.box.tl() + Point(x, y));
                v = {cv::saturate_cast<ushort>(v[0] * 0.93 * darker),
                     cv::saturate_cast<ushort>(v[1] * 0.84 * darker),
                     cv::saturate_cast<ushort>(v[2] * 0.68 * darker)};
            }
}

TEST(BroadMarks, AStainOnAPrintOfOneToneIsOutlined) {
    Image print = toned();
    EXPECT_TRUE(stains(print, 0.5f, {}).empty());
    const Region where = disc({400, 300}, 70, kSize);
    tint(print, where);
    const auto found = stains(print, 0.5f, {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].kind, Kind::Stain);
    EXPECT_NEAR(found[0].measures.size, 140, 20);
    EXPECT_LT(found[0].measures.rim, 1.1f) << "it has none";
    EXPECT_GT(found[0].measures.rim, 0.9f);
    EXPECT_LT(found[0].measures.softness, 8) << "it ends at once";
}

TEST(BroadMarks, AStainIsLessSureUnderHushAndInAWeakerSearch) {
    Image print = toned();
    tint(print, disc({400, 300}, 70, kSize));
    const auto sureness = [&](float strength, const Guides& guides) {
        const FindPlan plan{.origin = Origin::Print, .strength = strength};
        const auto found = find({print, 8}, plan, guides);
        float out = 0;
        for (const auto& f : *found)
            if (f.kind == Kind::Stain) out = std::max(out, f.confidence);
        return out;
    };
    const Mask all(kSize, CV_8U, cv::Scalar(255));
    EXPECT_GT(sureness(50, {}), 0.5f);
    EXPECT_LT(sureness(50, {.hush = all}), sureness(50, {}));
    EXPECT_LT(sureness(20, {}), sureness(50, {}));
    EXPECT_GT(sureness(50, {.heed = all}), sureness(50, {}));
}

TEST(BroadMarks, StainsOfAStoppedSearchOrOfAGreyPictureAreNone) {
    Image print = toned();
    tint(print, disc({400, 300}, 70, kSize));
    EXPECT_EQ(tintedPlaces(print, {}).all.size(), 1u);
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(tintedPlaces(print, source.get_token()).all.empty());
    Image grey;
    cv::extractChannel(print, grey, 1);
    EXPECT_TRUE(tintedPlaces(grey, {}).all.empty());
}

TEST(BroadMarks, AStainsRimAndSoftEdgeAreMeasured) {
    Image rimmed = toned();
    const Region where = disc({400, 300}, 70, kSize);
    tint(rimmed, where);
    Region ring = where;
    const Region middle = disc({400, 300}, 60, kSize);
    ring.mask(Rect(middle.box.tl() - ring.box.tl(), middle.box.size())).setTo(0, middle.mask);
    for (int y = 0; y < ring.box.height; ++y)
        for (int x = 0; x < ring.box.width; ++x)
            if (ring.mask.at<uchar>(y, x)) {
                auto& blue = rimmed.at<cv::Vec<ushort, 3>>(ring.box.tl() + Point(x, y))[2];
                blue = cv::saturate_cast<ushort>(blue * 0.8);
            }
    auto found = stains(rimmed, 0.5f, {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NEAR(found[0].measures.rim, std::log(0.93 / 0.68 / 0.8) / std::log(0.93 / 0.68), 0.2);
    Image soft = toned();
    for (int y = 0; y < soft.rows; ++y)
        for (int x = 0; x < soft.cols; ++x) {
            const double in = std::clamp((75 - std::hypot(x - 400.0, y - 300.0)) / 20, 0.0, 1.0);
            auto& v = soft.at<cv::Vec<ushort, 3>>(y, x);
            v[2] = cv::saturate_cast<ushort>(v[2] * (1 - 0.32 * in));
            v[1] = cv::saturate_cast<ushort>(v[1] * (1 - 0.16 * in));
        }
    found = stains(soft, 0.5f, {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NEAR(found[0].measures.softness, 20, 8);
}

TEST(BroadMarks, ATornCornerIsALoss) {
    Image print = toned();
    EXPECT_TRUE(losses(print, {}).empty());
    print(Rect(760, 0, 140, 110)).setTo(cv::Scalar(62500, 62300, 61800));
    const auto found = losses(print, {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_GE(found[0].confidence, 0.5f);
    EXPECT_TRUE(found[0].region.contains({880, 20}));
}

TEST(BroadMarks, ThingsOfAnotherToneOrOfManyColoursAreNoStains) {
    Image thing = toned();
    tint(thing, disc({400, 300}, 70, kSize), 0.55);
    EXPECT_TRUE(stains(thing, 0.5f, {}).empty()) << "a darker thing";
    Image beads = toned();
    for (int i = 0; i < 60; ++i) {
        const Point at(60 + 85 * (i % 10), 60 + 110 * (i / 10));
        const double yellow = 0.5 + 0.1 * (i * 7 % 11), bright = 0.3 + 0.13 * (i * 5 % 13);
        cv::circle(beads, at, 8 + i % 17, {30000 * bright, 27000 * bright, 27000 * bright * yellow},
                   -1);
    }
    EXPECT_LE(stains(beads, 0.5f, {}).size(), 6u) << "of 60 beads, half of them yellower";
}

/// As a scanner sees it: `lid` beyond the print, with the little noise of a scan.
Image onLid(const Image& print, double lid, const Region& torn, double turned = 0) {
    Image out(kSize, CV_16UC3, cv::Scalar::all(lid * 65535));
    Image grainy = print.clone(), noise(kSize, CV_16UC3);
    cv::theRNG().state = 5;
    cv::randn(noise, 2000, 700);
    grainy = grainy + noise - cv::Scalar::all(2000);
    Mask where(kSize, CV_8U, cv::Scalar(0));
    if (turned != 0) {
        const auto turn = cv::getRotationMatrix2D({450, 350}, turned, 0.9);
        cv::warpAffine(grainy, grainy, turn, kSize);
        Mask whole(kSize, CV_8U, cv::Scalar(255));
        cv::warpAffine(whole, where, turn, kSize, cv::INTER_NEAREST);
    } else {
        where = 255;
    }
    where(torn.box).setTo(0, torn.mask);
    grainy.copyTo(out, where);
    cv::randn(noise, 2000, 130);
    return out + noise - cv::Scalar::all(2000);
}

TEST(BroadMarks, ATornEdgeIsALossOnAnyLid) {
    const Region torn = disc({450, 0}, 90, kSize);
    for (const double lid : {0.97, 0.25, 0.05}) {
        const auto found = losses(onLid(toned(), lid, torn), {});
        ASSERT_EQ(found.size(), 1u) << lid;
        EXPECT_GT((found[0].region.box & torn.box).area(), 0.8 * torn.box.area());
        EXPECT_EQ(found[0].polarity, lid > 0.9 ? Polarity::Light : Polarity::Dark) << lid;
    }
}

TEST(BroadMarks, PaperBaredInsideAPrintIsALossAndLightThingsAreNone) {
    const Region torn = disc({450, 350}, 60, kSize);
    const auto found = losses(onLid(toned(), 0.97, torn), {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_GE(found[0].confidence, 0.5f);
    EXPECT_GT((found[0].region.box & torn.box).area(), 0.9 * torn.box.area());
    // One window of its own tone is cut straight; what a lighter thing outshines is no bare paper.
    const Region nothing = disc({450, 0}, 1, kSize);
    Image window = toned();
    window(Rect(300, 300, 110, 130)).setTo(cv::Scalar::all(0.97 * 65535));
    EXPECT_TRUE(losses(onLid(window, 0.97, nothing), {}).empty());
    Image beside = onLid(toned(), 0.85, torn);
    ASSERT_EQ(losses(beside, {}).size(), 1u);
    beside(Rect(520, 270, 70, 120)).setTo(cv::Scalar::all(0.97 * 65535));
    EXPECT_TRUE(losses(beside, {}).empty());
    Image windows = toned();
    for (int i = 0; i < 6; ++i)
        windows(Rect(100 + 120 * i, 300, 70, 90)).setTo(cv::Scalar::all(0.97 * 65535));
    EXPECT_TRUE(losses(onLid(windows, 0.97, nothing), {}).empty());
}

TEST(BroadMarks, WhatSurroundsAnOvalPictureIsNoLoss) {
    Mask oval(kSize, CV_8U, cv::Scalar(0));
    cv::ellipse(oval, {450, 350}, {450, 350}, 0, 0, 360, cv::Scalar(255), cv::FILLED);
    Image print = onLid(toned(), 0.9, disc({450, 0}, 1, kSize));
    print.setTo(cv::Scalar::all(0.9 * 65535), ~oval);
    EXPECT_TRUE(losses(print, {}).empty());
    const Rect left(0, 0, 450, 700);  // a print torn off in two corners
    onLid(toned(), 0.9, disc({450, 0}, 1, kSize))(left).copyTo(print(left));
    EXPECT_EQ(losses(print, {}).size(), 2u);
}

TEST(BroadMarks, ABlownHighlightIsNoLossAndClippedPaperIsOne) {
    Image print = onLid(toned(), 0.97, disc({450, 0}, 1, kSize));
    for (const auto& at : {Point(450, 0), Point(300, 300)}) {
        const Region torn = disc(at, 60, kSize);
        print(torn.box).setTo(cv::Scalar::all(65535), torn.mask);
    }
    EXPECT_EQ(losses(print(Rect(0, 0, 900, 200)), {}).size(), 1u);
    EXPECT_EQ(losses(print(Rect(0, 200, 900, 500)), {}).size(), 1u);
    EXPECT_TRUE(losses(print, {}).empty());
}

TEST(BroadMarks, ALargeSpeckWithNoPictureInItIsNamedALoss) {
    const Region flat = disc({300, 300}, 40, kSize), busy = disc({600, 300}, 40, kSize);
    Image print = toned();
    testkit::grass(kSize)(busy.box).copyTo(print(busy.box), busy.mask);
    print = onLid(print, 0.9, flat);
    std::vector<Finding> found(2);
    for (size_t i = 0; i < 2; ++i) {
        found[i].kind = Kind::Speck;
        found[i].region = i == 0 ? flat : busy;
        found[i].measures.contrast = 0.3f;
    }
    nameLosses(found, print);
    EXPECT_EQ(found[0].kind, Kind::Loss);
    EXPECT_EQ(found[1].kind, Kind::Speck);
}

TEST(BroadMarks, APaperMarginIsNoLoss) {
    Image print = toned();
    for (const Rect& r :
         {Rect(0, 0, 900, 40), Rect(0, 660, 900, 40), Rect(0, 0, 40, 700), Rect(860, 0, 40, 700)})
        print(r).setTo(cv::Scalar(60000, 59000, 57000));
    EXPECT_TRUE(losses(onLid(print, 0.97, disc({450, 0}, 1, kSize)), {}).empty());
}

TEST(BroadMarks, AYellowRingAboutSomethingBluerHasASureness) {
    Image print = toned();
    tint(print, disc({400, 300}, 60, kSize));
    const Region middle = disc({400, 300}, 52, kSize);
    for (int y = 0; y < middle.box.height; ++y)
        for (int x = 0; x < middle.box.width; ++x)
            if (middle.mask.at<uchar>(y, x))
                print.at<cv::Vec<ushort, 3>>(middle.box.tl() + Point(x, y))[2] = 65000;
    for (const auto& f : stains(print, 0, {})) EXPECT_TRUE(std::isfinite(f.confidence));
}

TEST(BroadMarks, WhatSurroundsASkewedPrintIsNoLoss) {
    const auto whole = onLid(toned(), 0.97, disc({450, 0}, 1, kSize), 1.2);
    EXPECT_TRUE(losses(whole, {}).empty());
    const Region torn = disc({820, 70}, 80, kSize);
    const auto found = losses(onLid(toned(), 0.97, torn, 1.2), {});
    ASSERT_EQ(found.size(), 1u);
    EXPECT_TRUE(found[0].region.contains({790, 110}));
}

}  // namespace
}  // namespace gq::find
