#include "core/carry/same_sensor.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/carry/carry_guides.h"
#include "core/carry/catch_up.h"
#include "core/carry/chart_match.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

using testkit::Spot;

const Size kSize(900, 600);
const std::vector<Spot> kSpots{
    {{200, 150}, 12, 0.2f}, {{600, 300}, 14, 0.15f}, {{450, 480}, 12, 0.2f}};

series::Frame frameOf(const Size& size) {
    series::Frame f = testkit::frameOf("f", size);
    f.camera = "camera";
    return f;
}

series::Frame mendedReference() {
    series::Frame f = frameOf(kSize);
    f.id = "reference";
    series::Id id = 1;
    for (const auto& s : kSpots) f.mends.push_back({id++, {disc(s.at, s.radius * 1.6f, kSize)}});
    return f;
}

Image halfSize(const Image& image) {
    Image out;
    cv::resize(image, out, {}, 0.5, 0.5, cv::INTER_AREA);
    return out;
}

TEST(SameSensor, ASmallerPictureOfTheWholeSensorTakesPart) {
    const series::Frame reference = mendedReference(), half = frameOf({450, 300});
    EXPECT_TRUE(refusal(reference, half).empty());
    const Image clean = halfSize(testkit::sky(kSize, 3)),
                worn = halfSize(testkit::dusty(testkit::sky(kSize, 3), kSpots));
    series::Id next = 100;
    const auto out = carryTo(worn, reference, half, {}, 0.5f, next);
    ASSERT_TRUE(out);
    ASSERT_EQ(out->mends.size(), kSpots.size());
    for (size_t i = 0; i < kSpots.size(); ++i) {
        const PointF off = out->mends[i].mend.region.centre() - kSpots[i].at * 0.5f;
        EXPECT_LT(std::hypot(off.x, off.y), 1.5f);
    }
}

TEST(SameSensor, TrimmedMarginsAreEven) {
    const series::Frame f = laidOn(kSize, frameOf({888, 592}));
    EXPECT_EQ(f.geometry.scale, 1);
    EXPECT_EQ(f.geometry.toSensor({0, 0}), PointF(6, 4));
}

TEST(SameSensor, AnotherShapeIsRefusedWithItsReason) {
    const series::Frame reference = mendedReference();
    EXPECT_NE(refusal(reference, frameOf({800, 600})).find("another shape"), std::string::npos);
    EXPECT_NE(refusal(reference, frameOf({600, 900})).find("turned for good"), std::string::npos);
    series::Frame untold = frameOf({450, 300});
    untold.camera.clear();
    EXPECT_FALSE(refusal(reference, untold).empty()) << "it may be of any camera";
}

TEST(SameSensor, ACutAndTurnedPictureTakesPartWhereItLies) {
    const series::Frame reference = mendedReference();
    const Rect part(120, 90, 400, 430);  // of the sensor; shows the first and the third spot
    const Image worn = testkit::dusty(testkit::sky(kSize, 3), kSpots);
    for (int turn = 1; turn <= 8; ++turn) {
        const Orientation o = orientationFromExif(turn);
        const Image stored = turned(worn(part).clone(), o);
        const PointF a = turned(PointF(part.tl()), kSize, o),
                     b = turned(PointF(part.br()), kSize, o);
        const Cut cut{kSize, o, {int(std::min(a.x, b.x)), int(std::min(a.y, b.y))}};
        const series::Frame plain = frameOf(stored.size());
        EXPECT_FALSE(refusal(reference, plain).empty()) << "nobody told where it lies";
        const auto placed = asCut(plain, cut);
        ASSERT_TRUE(placed) << placed.error().message();
        series::Id next = 100;
        const auto out = carryTo(stored, reference, *placed, {}, 0.5f, next);
        ASSERT_TRUE(out) << turn;
        ASSERT_EQ(out->mends.size(), 2u) << turn;
        for (size_t i = 0; i < 2; ++i) {
            const PointF at = placed->geometry.fromSensor(kSpots[2 * i].at);
            EXPECT_LT(cv::norm(out->mends[i].mend.region.centre() - at), 1.5) << turn;
        }
        EXPECT_EQ(asCut(*placed, {})->geometry.sensorSize(), plain.geometry.sensorSize());
    }
}

TEST(SameSensor, ACutBeyondTheSensorIsRefusedInWords) {
    const auto beyond = asCut(frameOf({400, 430}), Cut{kSize, Orientation::Upright, {600, 90}});
    ASSERT_FALSE(beyond);
    EXPECT_EQ(beyond.error().kind, Error::Kind::BadSetting);
    EXPECT_NE(beyond.error().message().find("400 x 430"), std::string::npos);
    EXPECT_FALSE(asCut(frameOf({400, 430}), Cut{kSize, Orientation::Upright, {-1, 0}}));
    EXPECT_FALSE(asCut(frameOf({700, 430}), Cut{kSize, Orientation::Turn90, {}}));
}

TEST(CarriedGuides, LieOnEveryTurnOfTheSensorAtTheSamePlace) {
    series::Frame from = testkit::frameOf("a", kSize);
    auto painted = std::make_shared<find::Guides>();
    painted->shield = find::painted({}, kSize, series::kGuideScale, {PointF(300, 200)}, 80, 255);
    from.guides = painted;
    for (int turn = 1; turn <= 8; ++turn) {
        FrameGeometry g;
        g.storedTurn = orientationFromExif(turn);
        g.stored = swapsSides(g.storedTurn) ? Size(kSize.height, kSize.width) : kSize;
        g.sensor = kSize;
        series::Frame to = testkit::frameOf("b", g.stored);
        to.geometry = g;
        const auto there = carriedGuides(from, to);
        ASSERT_TRUE(there) << turn;
        const PointF at = g.fromSensor({300, 200});
        EXPECT_EQ(there->shield.at<uchar>(Point(int(at.x / 4), int(at.y / 4))), 255) << turn;
        EXPECT_NEAR(cv::countNonZero(there->shield > 128), cv::countNonZero(painted->shield > 128),
                    12)
            << turn;
        EXPECT_TRUE(there->heed.empty());
    }
    series::Frame other = testkit::frameOf("c", {500, 500});
    EXPECT_FALSE(carriedGuides(from, other)) << "no sensor in common";
}

TEST(CatchUp, CarriesWhatIsNewOrChangedAndTakesBackWhatIsGone) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 5), kSpots);
    series::Frame reference = mendedReference();
    series::Frame target = frameOf(kSize);
    series::Id next = 100;
    target = *caughtUp(worn, reference, target, 0.5f, next);
    EXPECT_EQ(target.mends.size(), 3u);
    EXPECT_TRUE(behind(KeyedReference(reference), target).empty());

    reference.mends[0].mend.strength = 0.5f;
    reference.mends[1].muted = true;
    const Behind lacks = behind(KeyedReference(reference), target);
    EXPECT_EQ(lacks.mends, std::vector<series::Id>{1});
    EXPECT_EQ(lacks.gone, std::vector<series::Id>{2});
    const auto kept = target.carried[2].mend;
    target = *caughtUp(worn, reference, target, 0.5f, next);
    EXPECT_EQ(target.mends.size(), 2u);
    EXPECT_NE(target.mend(kept), nullptr) << "what did not change stays the same mend";
    EXPECT_TRUE(behind(KeyedReference(reference), target).empty());
}

TEST(CatchUp, IsDoneWithAFrameThatDoesNotShowAPlace) {
    series::Frame reference = mendedReference(), trimmed = frameOf({880, 587});
    reference.mends.push_back({9, {disc({3, 3}, 2, kSize)}});
    series::Id next = 100;
    trimmed = *caughtUp(testkit::sky({880, 587}), reference, trimmed, 0.5f, next);
    EXPECT_EQ(trimmed.carried.size(), kSpots.size());
    EXPECT_TRUE(behind(KeyedReference(reference), trimmed).empty())
        << "or it would be carried for ever";
}

TEST(CatchUp, LeavesWhatWasDroppedByHand) {
    const Image worn = testkit::dusty(testkit::sky(kSize, 5), kSpots);
    const series::Frame reference = mendedReference();
    series::Id next = 100;
    series::Frame target = *caughtUp(worn, reference, frameOf(kSize), 0.5f, next);
    target.carried[0].mend = 0;
    target.carried[0].verdict = series::Verdict::NotVisible;
    target.mends.erase(target.mends.begin());
    EXPECT_TRUE(behind(KeyedReference(reference), target).empty());
}

DustChart chartOf(const std::vector<Spot>& spots) {
    DustChart out;
    out.camera = "camera";
    out.sensor = kSize;
    out.frames = 5;
    for (const auto& s : spots)
        out.spots.push_back({disc(s.at, s.radius, kSize), s.depth, 5, 9, {}});
    return out;
}

TEST(ChartMatch, TellsWhatStayedMovedWentAndCame) {
    const DustChart known =
        chartOf({{{100, 100}, 8, 0.1f}, {{300, 300}, 10, 0.1f}, {{700, 100}, 9, 0.1f}});
    const DustChart seen =
        chartOf({{{101, 100}, 8, 0.1f}, {{330, 320}, 10, 0.1f}, {{500, 500}, 7, 0.1f}});
    const auto match = matched(known, seen);
    ASSERT_TRUE(match);
    EXPECT_EQ(words(*match), "1 of 3 spots are still there, 1 moved, 1 gone, 1 new");
    DustChart other = seen;
    other.camera = "another";
    EXPECT_EQ(matched(known, other).error().kind, Error::Kind::Refused);
}

TEST(ChartMatch, AShadowThatALaterSeriesChartsTooIsLikelyToLieInItsFrames) {
    DustChart known = chartOf({{{100, 100}, 8, 0.1f}}), seen = known;
    known.spots[0].shadow.held = ImageF(20, 20, 0.1f);
    known.spots[0].shadow.witnesses = {{"2026:05:01 10:00:00", 0.5}};
    seen.first = "2026:06:01 10:00:00";
    seen.last = "2026:06:01 11:00:00";
    const auto match = matched(known, seen);
    ASSERT_TRUE(match);
    EXPECT_GT(presenceAt(match->now.spots[0].shadow.witnesses, "2026:06:01 10:30:00"),
              presenceAt(known.spots[0].shadow.witnesses, "2026:06:01 10:30:00") + 0.5);
}

TEST(ChartMatch, IsEditedByTheReferenceFrame) {
    series::Frame reference = frameOf(kSize);
    find::Finding left;
    left.region = disc({100, 100}, 8, kSize);
    reference.findings.push_back({1, left, true});
    reference.mends.push_back({2, {disc({500, 500}, 9, kSize)}});
    const DustChart out =
        edited(chartOf({{{100, 100}, 8, 0.1f}, {{300, 300}, 10, 0.1f}}), reference);
    ASSERT_EQ(out.spots.size(), 2u);
    EXPECT_TRUE(out.spots[0].region.contains({300, 300}));
    EXPECT_TRUE(out.spots[1].region.contains({500, 500}));
}

}  // namespace
}  // namespace gq::carry
