#include "core/find/islands.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/find/find.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(900, 600);

/// Leaves to the left, sky to the right.
Image halves() {
    Image out = testkit::sky(kSize);
    const Rect left(0, 0, kSize.width / 2, kSize.height);
    testkit::grass(kSize)(left).copyTo(out(left));
    return out;
}

/// Opaque flakes laid on a picture, with an edge as sharp as a scan's.
Image flaked(const Image& clean, const std::vector<Region>& flakes, double tone) {
    Image laid = clean.clone(), out;
    for (const auto& f : flakes) laid(f.box).setTo(cv::Scalar::all(65535 * tone), f.mask);
    cv::GaussianBlur(laid, out, {}, 0.7);
    return out;
}

const Region kFlake = together(disc({450, 300}, 15, kSize), disc({466, 311}, 10, kSize));

double sameness(const Region& a, const Region& b) {
    const double both = a.area() - without(a, b).area();
    return both / together(a, b).area();
}

TEST(Flakes, OfAPrintAreNoDrawnBars) {
    const Region bar = stroke({{500, 120}, {560, 420}}, 9, kSize);
    const Image drawn = flaked(testkit::sky(kSize), {bar, kFlake}, 0.05);
    const auto found = flakes(Scales(drawn), Origin::Print, Polarity::Dark, 0.05f);
    const auto sees = [&](const Region& r) {
        return std::ranges::any_of(found, [&](const Finding& f) { return meets(f.region, r); });
    };
    EXPECT_TRUE(sees(kFlake));
    EXPECT_FALSE(sees(bar));
}

TEST(Islands, AFlakeOnAnEdgeIsOneWholeIsland) {
    const auto islands = islandsOf(flaked(halves(), {kFlake}, 0.95), Polarity::Light);
    ASSERT_EQ(islands.level, 0);
    const auto at = std::ranges::find_if(
        islands.all, [](const Island& i) { return sameness(i.region, kFlake) > 0.8; });
    ASSERT_NE(at, islands.all.end());
    EXPECT_GT(at->features[IslandStep], 0.3f);
    EXPECT_EQ(at->features[IslandAtEdge], 0);
    EXPECT_LT(at->features[IslandRaggedness], 1.6f);
}

TEST(Islands, LightAndDarkOnesAreDescribedAlike) {
    const Image light = flaked(halves(), {kFlake}, 0.95);
    const Image dark = cv::Scalar::all(65535) - light;
    const auto a = islandsOf(light, Polarity::Light), b = islandsOf(dark, Polarity::Dark);
    ASSERT_FALSE(a.all.empty());
    ASSERT_EQ(a.all.size(), b.all.size());
    for (size_t i = 0; i < a.all.size(); ++i)
        for (int f = 0; f < IslandDark; ++f)
            EXPECT_NEAR(a.all[i].features[size_t(f)], b.all[i].features[size_t(f)], 0.01f) << f;
}

TEST(Islands, ASoftLightAndASpottedPatchAreNone) {
    Image out = halves();
    cv::Mat glow(kSize, CV_32FC3);
    out.convertTo(glow, CV_32FC3);
    for (int y = 0; y < kSize.height; ++y)
        for (int x = 0; x < kSize.width; ++x) {
            const double far = std::hypot(x - 700, y - 300), light = 20000 * std::exp(-far / 20);
            glow.at<cv::Vec3f>(y, x) += cv::Vec3f::all(float(light));
        }
    glow.convertTo(out, CV_16UC3);
    const Region patch = disc({200, 300}, 18, kSize);
    Image busy;
    cv::add(testkit::grass(kSize, 5), cv::Scalar::all(20000), busy);
    busy(patch.box).copyTo(out(patch.box), patch.mask);
    for (const auto& f : flakes(out, Origin::Negative, Polarity::Light, 0.5f))
        EXPECT_FALSE(f.region.contains({700, 300}) || meets(f.region, patch));
}

TEST(Islands, ASheetCutStraightIsNone) {
    Image out = testkit::sky({1500, 1000});
    out(Rect(600, 200, 70, 50)).setTo(cv::Scalar::all(65000));
    const Region round = disc({300, 600}, 33, out.size());  // as large
    out(round.box).setTo(cv::Scalar::all(65000), round.mask);
    const auto islands = islandsOf(out, Polarity::Light);
    const auto any = [&](Point at) {
        return std::ranges::any_of(islands.all,
                                   [&](const Island& i) { return i.region.contains(at); });
    };
    EXPECT_FALSE(any({630, 225}));
    EXPECT_TRUE(any({300, 600}));
}

/// Bright things and gaps among leaves: where a window around a flake sees much that is as light.
Image restless() {
    Image out = testkit::grass(kSize);
    for (int i = 0; i < 60; ++i) {
        const Point at(60 + i * 97 % 800, 40 + i * 61 % 520);
        cv::rectangle(out, Rect(at, Size(14 + i % 5 * 9, 10 + i % 7 * 5)),
                      cv::Scalar::all(i % 3 ? 61000 : 2000), -1);
    }
    cv::GaussianBlur(out, out, {}, 2.5);
    return out;
}

TEST(Flakes, AreFoundAmongThingsAsLight) {
    std::vector<Region> laid;
    for (int i = 0; i < 8; ++i)
        laid.push_back(disc({float(100 + 97 * i), float(150 + 53 * (i * 3 % 7))}, 12, kSize));
    const auto found = find({flaked(restless(), laid, 0.95), 8}, {.origin = Origin::Negative});
    ASSERT_TRUE(found);
    for (const Region& flake : laid)
        EXPECT_TRUE(std::ranges::any_of(*found, [&](const Finding& f) {
            return f.confidence >= 0.5f && sameness(f.region, flake) > 0.7;
        })) << flake.box.x;
}

TEST(Flakes, AreFoundOnFilmAndPrintsWhereverTheyLie) {
    const std::vector<Region> laid{kFlake, disc({200, 150}, 12, kSize),
                                   disc({700, 420}, 22, kSize)};
    const Image light = flaked(halves(), laid, 0.95);
    for (const Origin origin : {Origin::Negative, Origin::Print}) {
        const auto found = find({light, 8}, {.origin = origin});
        ASSERT_TRUE(found);
        for (const Region& flake : laid)
            EXPECT_EQ(std::ranges::count_if(*found,
                                            [&](const Finding& f) {
                                                return f.confidence >= 0.5f &&
                                                       f.polarity == Polarity::Light &&
                                                       sameness(f.region, flake) > 0.7;
                                            }),
                      1)
                << word(origin) << " at " << flake.box.x;
    }
    EXPECT_TRUE(flakes(light, Origin::Sensor, Polarity::Light, 0).empty());
}

}  // namespace
}  // namespace gq::find
