#include "core/find/find.h"

#include <gtest/gtest.h>

#include <array>
#include <opencv2/imgproc.hpp>
#include <thread>

#include "sim/wear.h"
#include "sim/wear_shapes.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

using testkit::Spot;

const Size kSize(900, 700);
const std::vector<Spot> kSpots{{{120, 110}, 6, 0.2f},
                               {{420, 200}, 12, 0.1f},
                               {{700, 300}, 20, 0.05f},
                               {{250, 520}, 9, 0.3f},
                               {{640, 590}, 30, 0.08f}};

std::vector<Finding> above(const Image& pixels, const FindPlan& plan = {}) {
    auto all = find({pixels, 16}, plan);
    EXPECT_TRUE(all);
    std::erase_if(*all, [&](const auto& f) { return f.confidence < plan.line; });
    return *all;
}

bool hits(const Finding& f, const Spot& s) {
    return f.region.contains({int(s.at.x), int(s.at.y)});
}

TEST(Find, FindsEachShadowOfASkyOnce) {
    const auto found = above(testkit::dusty(testkit::sky(kSize), kSpots));
    for (const auto& s : kSpots)
        EXPECT_EQ(
            std::count_if(found.begin(), found.end(), [&](const auto& f) { return hits(f, s); }), 1)
            << s.at;
    EXPECT_LE(found.size(), kSpots.size() + 1);
    for (const auto& f : found) EXPECT_EQ(f.polarity, Polarity::Dark);
}

TEST(Find, ReportsSizeAndDepthNearTheTruth) {
    const auto found = above(testkit::dusty(testkit::sky(kSize), {{{420, 200}, 12, 0.10f}}));
    ASSERT_EQ(found.size(), 1u);
    EXPECT_NEAR(found[0].measures.size, 24, 9);
    EXPECT_NEAR(found[0].measures.contrast, -std::log(0.9), 0.06)
        << "mean over the whole soft shape";
    EXPECT_EQ(found[0].kind, Kind::Shadow);
}

TEST(Find, OutlinesAShadowWithACrispEdgeWholeBesideSteepTones) {
    Image picture = testkit::sky(kSize, 3);
    // Bars on both sides, a fence's, say: they unsettle what a coarse view calls usual.
    for (int y = 10; y + 24 < kSize.height; y += 60)
        for (const int x : {100, 510}) picture(Rect(x, y, 290, 24)).setTo(cv::Scalar::all(9000));
    cv::GaussianBlur(picture, picture, {}, 2);
    std::vector<Region> shadows;
    for (const Point at : {Point(450, 110), {450, 270}, {450, 430}, {450, 590}})
        shadows.push_back(disc(at, 17, kSize));
    Mask crisp(kSize, CV_8U, cv::Scalar(0));
    for (const auto& s : shadows) paint(crisp, s);
    Image dark;
    picture.convertTo(dark, -1, 0.93);
    dark.copyTo(picture, crisp);
    const auto found = above(picture);
    Mask marked(kSize, CV_8U, cv::Scalar(0));
    for (const auto& f : found) paint(marked, f.region);
    for (const auto& s : shadows) {
        Mask missed;
        cv::bitwise_and(s.mask, ~marked(s.box), missed);
        EXPECT_LT(cv::countNonZero(missed), 0.1 * s.area()) << s.box;
    }
    EXPECT_EQ(found.size(), shadows.size());
}

TEST(Find, FindsNothingOnACleanSky) {
    EXPECT_TRUE(above(testkit::sky(kSize, 5)).empty());
}

TEST(Find, LeavesBusyTextureAlone) {
    EXPECT_LE(above(testkit::grass(kSize)).size(), 12u) << "a fractal, busier than any lawn";
}

TEST(Find, TakesLightSpecksOnlyWhereTheOriginHasThem) {
    const std::vector<Spot> specks{
        {{150, 150}, 2.5f, 0.8f}, {{500, 300}, 3.5f, 0.7f}, {{700, 500}, 2, 0.9f}};
    const Image worn = testkit::specked(testkit::sky(kSize), specks);
    EXPECT_TRUE(above(worn, {.origin = Origin::Sensor}).empty());
    for (const Origin o : {Origin::Negative, Origin::Print}) {
        const auto found = above(worn, {.origin = o});
        for (const auto& s : specks)
            EXPECT_TRUE(std::any_of(
                found.begin(), found.end(),
                [&](const auto& f) { return hits(f, s) && f.polarity == Polarity::Light; }))
                << word(o) << s.at;
    }
}

TEST(Find, FindsStraightScratchesOnPrints) {
    sim::Worn print;
    print.worn = testkit::sky(kSize, 4);
    print.worn.copyTo(print.clean);
    sim::Dice dice(3);
    const auto scratch = [&](PointF from, float heading, float length) {
        sim::layScratch(print, sim::scratchRun(from, heading, length, 2.5f, dice), 0.95f, 0.7f);
    };
    scratch({120, 150}, 0.3f, 240);
    scratch({620, 180}, 1.2f, 180);
    scratch({300, 520}, -0.2f, 150);
    int scratches = 0;
    for (const auto& f : above(print.worn, {.origin = Origin::Print})) {
        const Mask on = print.map(sim::WearKind::Scratch)(f.region.box) & f.region.mask;
        EXPECT_GT(cv::countNonZero(on), 0.3 * f.region.area()) << "false at " << f.region.box;
        scratches += f.kind == Kind::Scratch && f.measures.length > 100;
    }
    EXPECT_EQ(scratches, 3);
}

TEST(Find, FindsAsMuchInAScanWithoutAToneCurve) {
    const Image dense = testkit::sky(kSize) * 0.35;
    const auto worn = sim::wear(dense, {.medium = sim::Medium::Positive, .seed = 5, .amount = 3});
    ImageF light;
    worn.worn.convertTo(light, CV_32F, 1.0 / 65535);
    cv::pow(light, 2.4, light);
    Image linear;
    light.convertTo(linear, CV_16U, 65535);
    const auto coded = above(worn.worn, {.origin = Origin::Positive}),
               found = above(linear, {.origin = Origin::Positive});
    EXPECT_GT(coded.size(), 20u);
    EXPECT_GE(double(found.size()), 0.8 * double(coded.size()))
        << coded.size() << " " << found.size();
}

TEST(Find, SteersByKindSizeAndStrength) {
    const Image worn = testkit::dusty(testkit::sky(kSize), kSpots);
    EXPECT_TRUE(above(worn, {.kinds = {Kind::Fibre}}).empty());
    const auto large = above(worn, {.smallest = 30}), small = above(worn, {.largest = 30});
    EXPECT_FALSE(large.empty());
    EXPECT_FALSE(small.empty());
    for (const auto& f : large) EXPECT_GE(f.measures.size, 30);
    for (const auto& f : small) {
        EXPECT_LE(f.measures.size, 30);
        EXPECT_FALSE(hits(f, kSpots.back())) << "a crumb of one too large";
    }
}

TEST(Find, KindsAndSizesSelectFromWhatASearchForAllFinds) {
    const auto worn =
        sim::wear(testkit::sky(kSize), {.medium = sim::Medium::Negative, .seed = 5, .amount = 3});
    const auto boxes = [&](FindPlan plan, auto wanted) {
        plan.origin = Origin::Negative;
        const auto found = find({worn.worn, 16}, plan);
        EXPECT_TRUE(found);
        std::vector<std::array<int, 4>> out;
        for (const auto& f : *found)
            if (const Rect& b = f.region.box; wanted(f))
                out.push_back({b.x, b.y, b.width, b.height});
        std::ranges::sort(out);
        return out;
    };
    const auto any = [](const Finding&) { return true; };
    const auto lines = boxes({}, [](const Finding& f) { return isLine(f.kind); });
    EXPECT_GT(lines.size(), 5u);
    EXPECT_EQ(boxes({.kinds = {Kind::Fibre, Kind::Scratch, Kind::Crack}}, any), lines);
    const auto large = boxes({}, [](const Finding& f) { return f.measures.size >= 12; });
    EXPECT_GT(large.size(), 5u);
    EXPECT_EQ(boxes({.smallest = 12}, any), large);
}

TEST(Find, TheStrongerTheMoreOfEverFainterShadowsAreFoundAndNoneIsLost) {
    std::vector<Spot> fainter;
    for (int i = 0; i < 24; ++i)
        fainter.push_back({{float(70 + 105 * (i % 8)), float(100 + 250 * (i / 8))},
                           8,
                           0.006f + 0.003f * float(i)});
    const Image dusty = testkit::dusty(testkit::sky(kSize), fainter);
    std::vector<bool> before(fainter.size(), false);
    for (const float strength : {0.0f, 50.0f, 100.0f}) {
        const auto found = above(dusty, {.strength = strength});
        std::vector<bool> now;
        for (const auto& s : fainter)
            now.push_back(std::ranges::any_of(found, [&](const auto& f) { return hits(f, s); }));
        EXPECT_GT(std::ranges::count(now, true), std::ranges::count(before, true)) << strength;
        for (size_t i = 0; i < now.size(); ++i) EXPECT_GE(now[i], before[i]) << strength << i;
        before = now;
    }
}

TEST(Find, GivesTheSameBitsForAnyNumberOfThreads) {
    const Picture worn{testkit::dusty(testkit::grass(kSize), kSpots), 16};
    setThreads(1);
    const auto one = find(worn, {});
    setThreads(2);
    const auto two = find(worn, {});
    setThreads(0);
    ASSERT_TRUE(one && two);
    ASSERT_EQ(one->size(), two->size());
    for (size_t i = 0; i < one->size(); ++i) {
        EXPECT_EQ((*one)[i].confidence, (*two)[i].confidence);
        EXPECT_EQ(runs((*one)[i].region), runs((*two)[i].region));
    }
}

TEST(Find, WorksOnGreyAndTinyPictures) {
    const Image grey(kSize, CV_16U, cv::Scalar(30000));
    EXPECT_TRUE(above(grey).empty());
    for (const Size s : {Size(1, 1), Size(3, 200), Size(40, 40)})
        EXPECT_TRUE(find({Image(s, CV_16UC3, cv::Scalar::all(9000)), 16}, {})) << s;
    EXPECT_FALSE(find({}, {}));
}

TEST(Find, TakesGreyForThreeEqualChannels) {
    Image grey, colour;
    cv::extractChannel(
        testkit::specked(testkit::dusty(testkit::sky(kSize), kSpots), {{{500, 400}, 4, 0.9f}}),
        grey, 1);
    cv::merge(std::vector<cv::Mat>{grey, grey, grey}, colour);
    for (const auto origin : allOrigins()) {
        const auto one = find({grey, 8}, {.origin = origin}),
                   three = find({colour, 8}, {.origin = origin});
        ASSERT_TRUE(one && three);
        ASSERT_EQ(one->size(), three->size()) << word(origin);
        EXPECT_GT(one->size(), 0u) << word(origin);
        for (size_t i = 0; i < one->size(); ++i) {
            EXPECT_NEAR((*one)[i].confidence, (*three)[i].confidence, 0.02f) << word(origin);
            EXPECT_EQ((*one)[i].region.box, (*three)[i].region.box);
        }
    }
}

TEST(Find, EndsAsCancelledWhenStopped) {
    const Picture big{testkit::sky({4000, 3000}), 16};
    std::stop_source stop;
    std::jthread asker([&] {
        std::this_thread::sleep_for(std::chrono::milliseconds(30));
        stop.request_stop();
    });
    const auto r = find(big, {}, {}, {}, stop.get_token());
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().kind, Error::Kind::Cancelled);
}

}  // namespace
}  // namespace gq::find
