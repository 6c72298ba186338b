#include "core/carry/carry.h"

#include <gtest/gtest.h>

#include <atomic>

#include "core/carry/visibility.h"
#include "core/render/compose.h"
#include "core/series/avoided.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

using series::Verdict;
using testkit::Spot;

const Size kSize(640, 480);
const std::vector<Spot> kSpots{
    {{150, 120}, 9, 0.25f}, {{400, 100}, 14, 0.15f}, {{520, 300}, 7, 0.3f}};

series::Frame reference() {
    series::Frame f = testkit::frameOf("f0001", kSize);
    series::Id id = 1;
    for (const auto& s : kSpots)
        f.mends.push_back({id++, {disc(s.at, s.radius * 1.5f, kSize)}, 0, false});
    return f;
}

series::Frame carriedTo(const Image& pixels, const series::Frame& target, series::Id& next) {
    auto out = carryTo(pixels, reference(), target, {.reference = "f0001", .targets = {target.id}},
                       0.5f, next);
    EXPECT_TRUE(out);
    return out ? *out : target;
}

class EachTurn : public testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(Exif, EachTurn, testing::Range(1, 9));

TEST_P(EachTurn, MendsTheSameGrainsHoweverTheFrameWasTurned) {
    // The sensor's picture, then turned for good by another program.
    const auto turn = orientationFromExif(GetParam());
    const Image clean = turned(testkit::sky(kSize, 4), turn),
                worn = turned(testkit::dusty(testkit::sky(kSize, 4), kSpots), turn);
    series::Frame target = testkit::frameOf("f0002", worn.size());
    target.geometry.storedTurn = turn;
    series::Id next = 100;
    const auto out = carriedTo(worn, target, next);
    ASSERT_EQ(out.carried.size(), kSpots.size());
    for (const auto& c : out.carried) EXPECT_EQ(c.verdict, Verdict::Mended);
    const auto pixels = render::composed(worn, out, 0.5f);
    ASSERT_TRUE(pixels);
    const Mask dust = turned(testkit::maskOf(kSpots, kSize, 1.0f), turn);
    EXPECT_GT(testkit::psnr(*pixels, clean, dust), testkit::psnr(worn, clean, dust) + 8);
}

TEST_P(EachTurn, IgnoresHowTheFrameIsShown) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    series::Id next = 100;
    const auto out =
        carriedTo(worn, testkit::frameOf("f0002", kSize, orientationFromExif(GetParam())), next);
    ASSERT_EQ(out.mends.size(), kSpots.size());
    EXPECT_EQ(out.mends[0].mend.region.box, reference().mends[0].mend.region.box);
}

TEST(Shows, AsksForMoreProofWhereOnlyOneFrameTellsOfIt) {
    const Visibility faint{.depth = -0.05f, .significance = -3}, clear{-0.05f, -5},
        slight{-0.002f, -9};
    EXPECT_TRUE(shows(faint, find::Polarity::Light));
    EXPECT_FALSE(clearlyShows(faint, find::Polarity::Light));
    EXPECT_TRUE(clearlyShows(clear, find::Polarity::Light));
    EXPECT_FALSE(clearlyShows(clear, find::Polarity::Dark));
    EXPECT_FALSE(shows(slight, find::Polarity::Light)) << "half a percent of the light at least";
}

TEST(CarryTo, LeavesAPlaceAloneWhereNothingShows) {
    series::Id next = 100;
    const auto out = carriedTo(testkit::sky(kSize, 9), testkit::frameOf("f0002", kSize), next);
    ASSERT_EQ(out.carried.size(), kSpots.size());
    for (const auto& c : out.carried) EXPECT_EQ(c.verdict, Verdict::NotVisible);
    EXPECT_TRUE(out.mends.empty());
}

TEST(CarryTo, LeavesAShieldedPlaceAloneAndJudgesWhatReachesIntoOne) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    auto target = testkit::frameOf("f0002", kSize);
    auto guides = std::make_shared<find::Guides>();
    guides->shield = Mask(kSize, CV_8U, cv::Scalar(0));
    cv::circle(guides->shield, kSpots[0].at, int(kSpots[0].radius) + 30, cv::Scalar(255), -1);
    const Point beside = Point(kSpots[1].at) + Point(int(kSpots[1].radius) / 2, 0);
    cv::rectangle(guides->shield, beside, beside + Point(40, 30), cv::Scalar(255), -1);
    target.guides = guides;
    series::Id next = 100;
    mend::PatchStore made;
    const auto out =
        carryTo(worn, reference(), target, {.reference = "f0001"}, 0.5f, next, {}, {}, &made);
    ASSERT_TRUE(out);
    EXPECT_EQ(out->carried[0].verdict, Verdict::NotVisible);
    EXPECT_EQ(out->carried[0].mend, 0u);
    EXPECT_EQ(out->carried[1].verdict, Verdict::Mended);
    const auto* m = out->mend(out->carried[1].mend);
    ASSERT_NE(m, nullptr);
    EXPECT_EQ(m->mend.region.box, reference().mends[1].mend.region.box) << "kept whole";
    const auto [laid, avoid] = series::Avoided(*out, 0.5f).laid(m->id, m->mend);
    EXPECT_TRUE(made.find(mend::patchKey(laid, avoid))) << "judged as it is laid";
    const auto mended = render::composed(worn, *out, 0.5f);
    ASSERT_TRUE(mended);
    Mask changed;
    cv::inRange(*mended - worn, cv::Scalar::all(0), cv::Scalar::all(0), changed);
    EXPECT_EQ(cv::countNonZero(~changed & guides->shield), 0);
}

TEST(CarryTo, LaysThePatchesItJudgedByWithoutMakingThemAgain) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    series::Id next = 100;
    mend::PatchStore made;
    const auto out = carryTo(worn, reference(), testkit::frameOf("f0002", kSize),
                             {.reference = "f0001"}, 0.5f, next, {}, {}, &made);
    ASSERT_TRUE(out);
    ASSERT_EQ(out->mends.size(), kSpots.size());
    const auto keyOf = [&](const series::MendEntry& m) {
        const auto near = mend::readBox(m.mend, worn.size());
        return mend::patchKey(m.mend, series::Avoided(*out, 0.5f).by(m.id, near));
    };
    for (const auto& m : out->mends) EXPECT_TRUE(made.find(keyOf(m)));
    const auto laid = [&] {
        Image pixels = worn.clone();
        EXPECT_TRUE(render::mendInPlace(pixels, *out, 0.5f, {}, &made));
        return pixels;
    };
    EXPECT_TRUE(testkit::equal(laid(), *render::composed(worn, *out, 0.5f)));
    // Another patch by the same key would be laid just so.
    mend::Patch black = *made.find(keyOf(out->mends[0]));
    black.pixels = Image::zeros(black.pixels.size(), black.pixels.type());
    made.keep(keyOf(out->mends[0]), std::make_shared<const mend::Patch>(black));
    EXPECT_EQ(laid().at<cv::Vec3w>(kSpots[0].at), cv::Vec3w());
}

TEST(CarryTo, WhatShowsAndCannotBeMendedNeedsALook) {
    const Spot large{{320, 240}, 200, 0.3f};  // nothing as large lies beside it
    series::Frame from = testkit::frameOf("f0001", kSize);
    from.mends.push_back({1, {disc(large.at, large.radius, kSize), mend::Method::Clone}, 0, false});
    series::Id next = 100;
    const auto out = carryTo(testkit::dusty(testkit::sky(kSize, 4), {large}), from,
                             testkit::frameOf("f0002", kSize), {.reference = "f0001"}, 0.5f, next);
    ASSERT_TRUE(out);
    ASSERT_EQ(out->carried.size(), 1u);
    EXPECT_EQ(out->carried[0].verdict, Verdict::NeedsLook);
    ASSERT_EQ(out->mends.size(), 1u);
    EXPECT_TRUE(out->mends[0].muted) << "kept, for a person to place its source";
}

/// A reference with one mend of what was found at a place.
series::Frame found(find::Kind kind, find::Polarity polarity, const Region& region) {
    series::Frame f = testkit::frameOf("f0001", kSize);
    find::Finding it;
    it.kind = kind;
    it.polarity = polarity;
    it.region = region;
    f.findings.push_back({1, it, false, false});
    f.mends.push_back({2, {region}, 1, false});
    return f;
}

Verdict verdictOn(const Image& pixels, const series::Frame& from) {
    series::Id next = 100;
    const auto out = carryTo(pixels, from, testkit::frameOf("f0002", kSize),
                             {.reference = "f0001", .targets = {"f0002"}}, 0.5f, next);
    return out->carried.at(0).verdict;
}

TEST(CarryTo, LightDustOfAFlatbedsGlassGoesAlongAndOnlyThat) {
    const Image clean = testkit::sky(kSize, 4);
    const Spot grain{{150, 120}, 4, 0.5f};
    const Region place = disc(grain.at, 6, kSize);
    const auto light = found(find::Kind::Speck, find::Polarity::Light, place);
    EXPECT_EQ(verdictOn(testkit::specked(clean, {grain}), light), Verdict::Mended);
    EXPECT_EQ(verdictOn(testkit::dusty(clean, {grain}), light), Verdict::NotVisible);
    EXPECT_EQ(verdictOn(clean, light), Verdict::NotVisible);
    auto byHand = light;
    byHand.findings.clear();
    EXPECT_EQ(verdictOn(testkit::specked(clean, {grain}), byHand), Verdict::Mended);
}

TEST(CarryTo, FollowsALineAlongTheFilmAsItSways) {
    const auto from =
        found(find::Kind::Scratch, find::Polarity::Light, stroke({{0, 240}, {640, 240}}, 3, kSize));
    for (const double share : {1.1, 1.02}) {
        Image scan = testkit::sky(kSize, 5);
        scan.row(244) *= share;
        series::Id next = 100;
        const auto out = carryTo(scan, from, testkit::frameOf("f0002", kSize),
                                 {.reference = "f0001", .targets = {"f0002"}}, 0.5f, next);
        ASSERT_TRUE(out);
        ASSERT_EQ(out->mends.size(), 1u);
        EXPECT_EQ(out->carried[0].verdict, Verdict::Mended) << share;
        EXPECT_NEAR(out->mends[0].mend.region.centre().y, 244.5f, 1);
    }
    EXPECT_EQ(verdictOn(testkit::sky(kSize, 5), from), Verdict::NotVisible);
}

TEST(CarryTo, AddsNothingTwice) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    series::Id next = 100;
    series::Frame target = testkit::frameOf("f0002", kSize);
    target.mends.push_back({50, {disc({300, 400}, 6, kSize)}, 0, false});
    const auto once = carriedTo(worn, target, next);
    const auto twice = carriedTo(worn, once, next);
    EXPECT_EQ(once.mends.size(), 1 + kSpots.size());
    EXPECT_EQ(twice.mends.size(), once.mends.size());
    EXPECT_EQ(twice.carried.size(), once.carried.size());
    EXPECT_TRUE(twice.mend(50)) << "the frame's own mend stays";
}

TEST(CarryTo, RefusesAnotherCameraWithTheReason) {
    series::Frame other = testkit::frameOf("f0002", kSize);
    other.camera = "Sandpiper Other";
    series::Id next = 1;
    const auto out =
        carryTo(testkit::sky(kSize), reference(), other, {.reference = "f0001"}, 0.5f, next);
    ASSERT_FALSE(out);
    EXPECT_EQ(out.error().kind, Error::Kind::Refused);
    EXPECT_NE(out.error().what.find("Sandpiper Other"), std::string::npos);
}

TEST(CarryTo, KeepsEachMendsOwnSourceWhenAsked) {
    series::Frame from = reference();
    for (auto& m : from.mends) m.mend.source = Point(40, 25);
    const Image worn = turned(testkit::dusty(testkit::sky(kSize, 4), kSpots), Orientation::Turn90);
    series::Frame target = testkit::frameOf("f0002", worn.size());
    target.geometry.storedTurn = Orientation::Turn90;
    series::Id next = 100;
    const auto out =
        carryTo(worn, from, target, {.reference = "f0001", .source = SourceRule::Same}, 0.5f, next);
    ASSERT_TRUE(out);
    for (const auto& m : out->mends)
        EXPECT_EQ(*m.mend.source, Point(-25, 40)) << "turned with the frame";
}

TEST(CarryAll, ChangesNothingWhenStoppedHalfWay) {
    series::Series s;
    s.reference = "f0001";
    s.frames = {std::make_shared<const series::Frame>(reference())};
    CarryPlan plan{.reference = "f0001"};
    for (const char* id : {"f0002", "f0003", "f0004"}) {
        s.frames.push_back(std::make_shared<const series::Frame>(testkit::frameOf(id, kSize)));
        plan.targets.push_back(id);
    }
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    std::stop_source stop;
    std::atomic<int> asked = 0;  // two frames are read at once
    std::vector<Error> faults;
    const auto pixels = [&](const series::Frame&, std::stop_token) -> Result<Image> {
        if (++asked == 2) stop.request_stop();
        return worn;
    };
    const auto out = carryAll(s, plan, pixels, faults, {}, stop.get_token());
    ASSERT_FALSE(out);
    EXPECT_EQ(out.error().kind, Error::Kind::Cancelled);
    EXPECT_EQ(asked, 2);
}

TEST(CarryAll, GoesOnPastAFrameThatCannotBeRead) {
    series::Series s;
    s.reference = "f0001";
    s.frames = {std::make_shared<const series::Frame>(reference()),
                std::make_shared<const series::Frame>(testkit::frameOf("f0002", kSize)),
                std::make_shared<const series::Frame>(testkit::frameOf("f0003", kSize))};
    const Image worn = testkit::dusty(testkit::sky(kSize, 4), kSpots);
    std::vector<Error> faults;
    const auto out = carryAll(
        s, {.reference = "f0001", .targets = {"f0002", "f0003"}},
        [&](const series::Frame& f, std::stop_token) -> Result<Image> {
            if (f.id == "f0002")
                return fail(Error::Kind::NotFound, "there is no such file", f.file.string());
            return worn;
        },
        faults);
    ASSERT_TRUE(out);
    EXPECT_EQ(faults.size(), 1u);
    EXPECT_EQ(out->frame("f0002"), s.frame("f0002"));
    EXPECT_EQ(out->frame("f0003")->mends.size(), kSpots.size());
}

TEST(Visibility, RisesWithTheDepthOfTheShadow) {
    const Image sky = testkit::sky(kSize, 4);
    const Region place = disc({150, 120}, 10, kSize);
    float before = visibilityOf(sky, place).significance;
    EXPECT_FALSE(shows(visibilityOf(sky, place)));
    for (const float depth : {0.02f, 0.05f, 0.2f}) {
        const auto v = visibilityOf(testkit::dusty(sky, {{{150, 120}, 9, depth}}), place);
        EXPECT_GT(v.significance, before);
        EXPECT_TRUE(shows(v)) << depth;
        before = v.significance;
    }
}

TEST(Visibility, CallsBusyTextureBusy) {
    const Region place = disc({150, 120}, 10, kSize);
    EXPECT_GT(visibilityOf(testkit::grass(kSize), place).busy,
              5 * visibilityOf(testkit::sky(kSize), place).busy);
}

}  // namespace
}  // namespace gq::carry
