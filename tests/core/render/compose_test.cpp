#include "core/render/compose.h"

#include <gtest/gtest.h>

#include "core/render/mend_findings.h"
#include "core/series/avoided.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

const Size kSize(600, 400);

series::Frame withDiscs(const std::vector<PointF>& places) {
    series::Frame f = testkit::frameOf("f", kSize);
    series::Id id = 1;
    for (const auto& p : places) f.mends.push_back({id++, {disc(p, 8, kSize)}, 0, false});
    return f;
}

TEST(Composer, GivesWhatAFreshCompositionGives) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    series::Frame f = withDiscs({{100, 100}, {120, 108}, {300, 200}, {500, 300}});
    ASSERT_TRUE(composer.compose(pixels, f, 0.5f));
    f.mends.erase(f.mends.begin());
    f.mends.push_back({9, {disc({310, 210}, 10, kSize)}, 0, false});
    f.mends[0].mend.strength = 0.5f;
    const auto kept = composer.compose(pixels, f, 0.5f);
    ASSERT_TRUE(kept);
    EXPECT_TRUE(
        testkit::equal(kept->picture.part(Rect({0, 0}, kSize)), *composed(pixels, f, 0.5f)));
}

TEST(Composer, MakesAnewOnlyWhatAnEditFeeds) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    series::Frame f = withDiscs({{60, 60}, {300, 200}, {540, 340}});
    const auto before = composer.compose(pixels, f, 0.5f);
    f.mends[1].mend.strength = 0.4f;
    const auto after = composer.compose(pixels, f, 0.5f);
    ASSERT_TRUE(before && after);
    EXPECT_EQ(before->patches.at(1), after->patches.at(1)) << "the same patch, not an equal one";
    EXPECT_EQ(before->patches.at(3), after->patches.at(3));
    ASSERT_EQ(after->changed.size(), 2u) << "where it is and where it was";
    EXPECT_EQ(after->changed[0], after->patches.at(2)->box);
}

TEST(Composer, NeighboursWhoseSoftEdgesDoNotMeetDoNotFeedEachOther) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    series::Frame f = withDiscs({{100, 100}, {124, 100}, {138, 100}});
    const auto before = composer.compose(pixels, f, 0.5f);
    f.mends[0].mend.strength = 0.4f;
    f.mends[2].muted = true;
    const auto after = composer.compose(pixels, f, 0.5f);
    ASSERT_TRUE(before && after);
    EXPECT_NE(before->patches.at(1), after->patches.at(1));
    EXPECT_EQ(before->patches.at(2), after->patches.at(2));
}

TEST(Composer, ASourcePlacedOnAnEarlierMendReadsIt) {
    const Image pixels = testkit::dusty(testkit::grass(kSize), {{{100, 100}, 8, 0.5f}});
    series::Frame f = withDiscs({{100, 100}, {200, 100}});
    f.mends[1].mend.method = mend::Method::Clone;
    f.mends[1].mend.source = Point(-100, 0);
    const auto out = composed(pixels, f, 0.5f);
    ASSERT_TRUE(out);
    EXPECT_TRUE(testkit::equal((*out)({196, 96, 8, 8}), (*out)({96, 96, 8, 8})));
}

TEST(Composer, ShowsAnEditedMendBeforeItsNeighboursAreMadeAnew) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    std::vector<Composer::Outcome> early;
    const auto compose = [&](const series::Frame& f) {
        early.clear();
        return composer.compose(pixels, f, 0.5f, {}, {},
                                [&](Composer::Outcome out) { early.push_back(std::move(out)); });
    };
    series::Frame f = withDiscs({{100, 100}, {130, 108}, {500, 300}});
    ASSERT_TRUE(compose(f));
    EXPECT_TRUE(early.empty()) << "nothing was there before";
    f.mends.push_back({9, {disc({115, 120}, 8, kSize)}, 0, false});
    const auto whole = compose(f);
    ASSERT_TRUE(whole);
    ASSERT_EQ(early.size(), 1u);
    EXPECT_EQ(early[0].patches.size(), 4u);
    ASSERT_EQ(early[0].changed.size(), 1u);
    EXPECT_EQ(early[0].changed[0], early[0].patches.at(9)->box);
    EXPECT_TRUE(
        testkit::equal(whole->picture.part(Rect({0, 0}, kSize)), *composed(pixels, f, 0.5f)))
        << "the whole has the last word";
    f.mends.push_back({10, {disc({400, 60}, 8, kSize)}, 0, false});
    ASSERT_TRUE(compose(f));
    EXPECT_TRUE(early.empty()) << "no neighbour has to be made anew";
}

TEST(Composer, ShowsADraftOfALargeRebuildBeforeTheWhole) {
    const Image pixels = testkit::grass(kSize);
    series::Frame f = withDiscs({});
    f.mends.push_back({1, {disc({300, 200}, 70, kSize), mend::Method::Rebuild}, 0, false});
    Composer composer;
    std::vector<PatchPtr> early;
    const auto whole = composer.compose(pixels, f, 0.5f, {}, {}, [&](Composer::Outcome out) {
        early.push_back(out.patches.at(1));
    });
    ASSERT_TRUE(whole);
    ASSERT_EQ(early.size(), 1u);
    EXPECT_EQ(early[0]->box, whole->patches.at(1)->box);
    EXPECT_FALSE(testkit::equal(early[0]->pixels, whole->patches.at(1)->pixels));
    EXPECT_TRUE(
        testkit::equal(whole->picture.part(Rect({0, 0}, kSize)), *composed(pixels, f, 0.5f)));
}

TEST(Composer, AnEditTakenBackMakesNothingAnew) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    const series::Frame f = withDiscs({{60, 60}, {300, 200}});
    series::Frame edited = f;
    edited.mends[0].mend.strength = 0.4f;
    const auto before = composer.compose(pixels, f, 0.5f);
    ASSERT_TRUE(before && composer.compose(pixels, edited, 0.5f));
    EXPECT_EQ(composer.compose(pixels, f, 0.5f)->patches, before->patches);
}

TEST(Composer, ATrialIsThePatchThatTheFrameWouldLay) {
    const Image pixels = testkit::grass(kSize);
    Composer composer;
    const series::Frame f = withDiscs({{60, 60}, {300, 200}, {312, 206}});
    ASSERT_TRUE(composer.compose(pixels, f, 0.5f));
    series::Frame edited = f;
    edited.mends[1].mend.strength = 0.4f;
    const auto second = composer.trial(pixels, edited, 0.5f, 2),
               third = composer.trial(pixels, edited, 0.5f, 3);
    ASSERT_TRUE(second && third);
    const auto after = composer.compose(pixels, edited, 0.5f);
    EXPECT_EQ(after->patches.at(2), *second) << "the same patch, not an equal one";
    EXPECT_EQ(after->patches.at(3), *third);
    EXPECT_TRUE(
        testkit::equal(after->picture.part(Rect({0, 0}, kSize)), *composed(pixels, edited, 0.5f)));
    edited.mends[1].muted = true;
    EXPECT_FALSE(composer.trial(pixels, edited, 0.5f, 2));
}

TEST(Composer, ARebuildInTheBoundsCopiesFromThemAlone) {
    Image pixels = testkit::grass(kSize);
    pixels.colRange(300, kSize.width) *= 0.3;
    series::Frame f = withDiscs({});
    f.mends.push_back({1, {disc({300, 200}, 40, kSize), mend::Method::Rebuild}, 0, false});
    auto guides = std::make_shared<find::Guides>();
    guides->bounds = Mask(kSize, CV_8U, cv::Scalar(0));
    guides->bounds.colRange(0, 320) = 255;
    f.guides = guides;
    const auto right = [&] {
        const auto out = composed(pixels, f, 0.5f);
        return out ? cv::mean((*out)({310, 190, 20, 20}))[1] : 0;
    };
    const double limited = right();
    f.guides = nullptr;
    EXPECT_GT(limited, 1.5 * right());
    guides = std::make_shared<find::Guides>(*guides);
    guides->bounds.setTo(0);
    guides->bounds.colRange(500, kSize.width) = 255;
    const double free = right();
    f.guides = guides;
    EXPECT_EQ(right(), free) << "it does not lie in them";
}

TEST(Composer, TakesAMutedMendOut) {
    const Image pixels = testkit::grass(kSize);
    series::Frame f = withDiscs({{100, 100}});
    f.mends[0].muted = true;
    EXPECT_TRUE(testkit::equal(*composed(pixels, f, 0.5f), pixels));
}

TEST(Composer, GivesTheSameBitsForAnyNumberOfThreads) {
    const Image pixels = testkit::grass(kSize);
    const series::Frame f = withDiscs({{100, 100}, {112, 100}, {124, 104}, {300, 200}, {308, 206}});
    setThreads(1);
    const auto one = composed(pixels, f, 0.5f);
    setThreads(0);
    EXPECT_TRUE(testkit::equal(*one, *composed(pixels, f, 0.5f)));
}

TEST(WithMends, GivesEachOpenFindingOneMend) {
    series::Frame f = testkit::frameOf("f", kSize);
    series::Id next = 1;
    for (const float c : {0.9f, 0.8f, 0.2f}) {
        find::Finding found;
        found.region = disc({100 + 300 * c, 100}, 8, kSize);
        found.confidence = c;
        f.findings.push_back({next++, found, false});
    }
    const Image pixels = testkit::sky(kSize);
    const auto open = openAbove(f, 0.5f);
    EXPECT_EQ(open.size(), 2u);
    const auto mended = *withMends(pixels, f, open, 0.5f, next);
    EXPECT_EQ(mended.mends.size(), 2u);
    EXPECT_EQ(withMends(pixels, mended, open, 0.5f, next)->mends.size(), 2u)
        << "a mended finding is not mended twice";
    EXPECT_TRUE(openAbove(mended, 0.5f).empty());
}

TEST(WithMends, KeepsWhatItMadeForWhoeverLaysIt) {
    const Image pixels = testkit::grass(kSize);
    series::Frame f = testkit::frameOf("f", kSize);
    find::Finding found;
    found.confidence = 0.9f;
    for (series::Id id = 1; id <= 4; ++id) {
        found.region = disc({80 + 100 * float(id), 100}, 8, kSize);
        f.findings.push_back({id, found, false});
    }
    series::Id next = 9;
    mend::PatchStore made;
    const auto mended = withMends(pixels, f, {1, 2, 3, 4}, 0.5f, next, &made);
    ASSERT_TRUE(mended);
    const series::Avoided avoided(*mended, 0.5f);
    for (const auto& m : mended->mends)
        EXPECT_TRUE(
            made.find(mend::patchKey(m.mend, avoided.by(m.id, mend::readBox(m.mend, kSize)))));
    Image laid = pixels.clone();
    ASSERT_TRUE(mendInPlace(laid, *mended, 0.5f, {}, &made));
    EXPECT_TRUE(testkit::equal(laid, *composed(pixels, *mended, 0.5f)));
}

TEST(WithMends, LeaveNoRimOfTheLidAroundALoss) {
    const Image clean = testkit::sky(kSize);
    Image torn = clean.clone();
    const Region lost = disc({0, 0}, 60, kSize);
    torn(lost.box).setTo(cv::Scalar::all(64000), lost.mask);
    cv::GaussianBlur(torn, torn, {}, 1.5);
    series::Frame f = testkit::frameOf("f", kSize);
    find::Finding found;
    found.kind = find::Kind::Loss;
    found.region = disc({0, 0}, 58, kSize);
    f.findings.push_back({1, found, false});
    series::Id next = 9;
    const Image made = *composed(torn, *withMends(torn, f, {1}, 0.5f, next), 0.5f);
    const Region rim = without(disc({0, 0}, 66, kSize), disc({0, 0}, 57, kSize));
    cv::Mat lighter;
    cv::subtract(made(rim.box), clean(rim.box), lighter);
    double most = 0;
    cv::minMaxLoc(lighter.reshape(1), nullptr, &most);
    EXPECT_LT(most, 6000);
}

TEST(WithMends, StoppedItGivesNothing) {
    series::Frame f = testkit::frameOf("f", kSize);
    find::Finding found;
    found.region = disc({100, 100}, 8, kSize);
    f.findings.push_back({1, found, false});
    series::Id next = 9;
    std::stop_source stop;
    stop.request_stop();
    const auto out =
        withMends(testkit::sky(kSize), f, {1}, 0.5f, next, nullptr, {}, stop.get_token());
    ASSERT_FALSE(out);
    EXPECT_EQ(out.error().kind, Error::Kind::Cancelled);
    EXPECT_EQ(next, 9u);
}

TEST(WithMends, AHazeIsDividedOutNotHealed) {
    const Size large(1500, 1000);
    const Image clean = testkit::sky(large);
    Image hazy = clean.clone();
    for (int y = 0; y < large.height; ++y)
        for (int x = 0; x < large.width; ++x)
            hazy.at<cv::Vec<ushort, 3>>(y, x) *=
                1 - 0.08 * std::exp(-((x - 900) * (x - 900) + (y - 400) * (y - 400)) / 5000.0);
    auto frame = testkit::frameOf("f", large);
    find::Finding haze;
    haze.region = disc({900, 400}, 65, large);
    haze.measures.size = 130;
    frame.findings.push_back({1, haze, false, false});
    series::Id next = 2;
    frame = *withMends(hazy, frame, {1}, 0.5f, next);
    ASSERT_EQ(frame.mends.size(), 1u);
    EXPECT_EQ(frame.mends[0].mend.method, mend::Method::Unshade);
    const auto made = composed(hazy, frame, 0.5f);
    ASSERT_TRUE(made);
    Mask where = Mask::zeros(large, CV_8U);
    paint(where, haze.region);
    EXPECT_GT(testkit::psnr(*made, clean, where), testkit::psnr(hazy, clean, where) + 8);
}

}  // namespace
}  // namespace gq::render
