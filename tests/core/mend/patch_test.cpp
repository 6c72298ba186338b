#include "core/mend/patch.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/mend/fit.h"
#include "core/mend/split.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

using testkit::psnr;
using testkit::Spot;

const Size kSize(400, 300);

Mend discMend(PointF at, float radius) {
    Mend m;
    m.region = disc(at, radius, kSize);
    return m;
}

Image mended(const Image& pixels, const Mend& mend, const std::vector<Region>& avoid = {}) {
    const auto patch = makePatch({pixels, avoid}, mend);
    EXPECT_TRUE(patch);
    Image out = pixels.clone();
    if (patch) lay(*patch, out);
    return out;
}

Mask footprintMask(const Mend& m) {
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    paint(mask, footprint(m, kSize));
    return mask;
}

struct Place {
    const char* name;
    bool busy;
    Spot spot;
    double gain;  ///< dB over the worn picture
};

class Heals : public testing::TestWithParam<Place> {};
INSTANTIATE_TEST_SUITE_P(Places, Heals,
                         testing::Values(Place{"sky", false, {{200, 150}, 10, 0.3f}, 14},
                                         Place{"largeInSky", false, {{200, 150}, 40, 0.3f}, 14},
                                         Place{"corner", false, {{6, 5}, 9, 0.3f}, 12},
                                         Place{"grass", true, {{200, 150}, 6, 0.9f}, 5}));

TEST_P(Heals, BringsThePlaceNearerToTheTruth) {
    const Place& p = GetParam();
    const Image clean = p.busy ? testkit::grass(kSize) : testkit::sky(kSize),
                worn = testkit::dusty(clean, {p.spot});
    const Mend m = discMend(p.spot.at, p.spot.radius * 1.5f + 1);
    const Image out = mended(worn, m);
    const Mask where = testkit::maskOf({p.spot}, kSize, 1.0f);
    EXPECT_GT(psnr(out, clean, where), psnr(worn, clean, where) + p.gain);
    EXPECT_EQ(testkit::worstOutside(out, worn, footprintMask(m)), 0)
        << "outside the footprint nothing changes";
}

TEST(MakePatch, KeepsTheGrainOfTheSurroundings) {
    const Image clean = testkit::sky(kSize);
    const Image out =
        mended(testkit::dusty(clean, {{{200, 150}, 14, 0.4f}}), discMend({200, 150}, 20));
    const auto grain = [](const Image& i, const Rect& r) {
        cv::Mat f, soft;
        i(r).convertTo(f, CV_32F);
        cv::GaussianBlur(f, soft, {9, 9}, 1.5);
        cv::Scalar mean, deviation;
        cv::meanStdDev(f - soft, mean, deviation);
        return deviation[1];
    };
    const Rect inside(188, 138, 24, 24), beside(260, 138, 24, 24);
    EXPECT_NEAR(grain(out, inside) / grain(out, beside), 0.95, 0.25);
}

TEST(MakePatch, NeverTakesItsSourceFromWhatItMustAvoid) {
    Image pixels = testkit::sky(kSize);
    std::vector<Region> avoid;
    for (const PointF at :
         {PointF(150, 150), PointF(250, 150), PointF(200, 100), PointF(200, 200)}) {
        avoid.push_back(disc(at, 22, kSize));
        pixels(avoid.back().box).setTo(cv::Scalar(65535, 0, 65535), avoid.back().mask);
    }
    const Mend m = discMend({200, 150}, 12);
    const auto patch = makePatch({pixels, avoid}, m);
    ASSERT_TRUE(patch);
    const cv::Scalar mean = cv::mean(patch->pixels, patch->footprint);
    EXPECT_LT(mean[0], mean[1]) << "no trace of the magenta of the avoided places";
}

TEST(MakePatch, CopiesFromASourceThatIsSet) {
    Image pixels = testkit::sky(kSize);
    const Region pattern = disc({100.5f, 80.5f}, 3, kSize);
    pixels(pattern.box).setTo(cv::Scalar::all(5000), pattern.mask);
    Mend m = discMend({200.5f, 150.5f}, 12);
    m.source = Point(-100, -70);
    const auto patch = makePatch({pixels, {}}, m);
    ASSERT_TRUE(patch);
    EXPECT_EQ(patch->source, Point(-100, -70));
    const Point middle = Point(200, 150) - patch->box.tl();
    EXPECT_LT((patch->pixels.at<cv::Vec<ushort, 3>>(middle)[1]), 15000);
}

TEST(MakePatch, RefusesASourceOutsideThePicture) {
    Mend m = discMend({200, 150}, 12);
    m.source = Point(-300, 0);
    EXPECT_FALSE(makePatch({testkit::sky(kSize), {}}, m));
}

TEST(MakePatch, ObeysStrength) {
    const Image worn = testkit::dusty(testkit::sky(kSize), {{{200, 150}, 12, 0.4f}});
    Mend m = discMend({200, 150}, 18);
    m.strength = 0;
    EXPECT_TRUE(testkit::equal(mended(worn, m), worn));
}

TEST(MakePatch, GivesAnotherResultForAnotherCandidate) {
    const Image worn = testkit::dusty(testkit::grass(kSize), {{{200, 150}, 7, 0.6f}});
    Mend m = discMend({200, 150}, 8);
    const Image first = mended(worn, m);
    EXPECT_TRUE(testkit::equal(first, mended(worn, m))) << "the same mend gives the same bits";
    m.candidate = 1;
    EXPECT_FALSE(testkit::equal(first, mended(worn, m)));
}

TEST(MakePatch, WorksInGreyAndWhereNothingIsKnown) {
    Image grey;
    cv::cvtColor(testkit::sky(kSize), grey, cv::COLOR_RGB2GRAY);
    EXPECT_TRUE(makePatch({grey, {}}, discMend({50, 50}, 8)));
    Mend all;
    all.region = {Rect({0, 0}, kSize), Mask(kSize, CV_8U, cv::Scalar(255))};
    EXPECT_TRUE(makePatch({testkit::sky(kSize), {}}, all));
    EXPECT_FALSE(makePatch({grey, {}}, Mend{}));
}

TEST(MakePatch, EndsAsCancelledWhenStopped) {
    std::stop_source stop;
    stop.request_stop();
    const auto r = makePatch({testkit::sky(kSize), {}}, discMend({200, 150}, 12), stop.get_token());
    ASSERT_FALSE(r);
    EXPECT_EQ(r.error().kind, Error::Kind::Cancelled);
}

TEST(Fitted, ReachesPastASoftShadowInASky) {
    const Spot s{{200, 150}, 16, 0.25f};
    const Image worn = testkit::dusty(testkit::sky(kSize), {s});
    const Mend m = fitted(worn, disc(s.at, s.radius * 0.8f, kSize), Edge::Soft);
    EXPECT_TRUE(footprint(m, kSize).contains({200 + 20, 150}));
    EXPECT_FALSE(footprint(m, kSize).contains({200 + 40, 150}));
}

TEST(Fitted, DoesNotTakeATonesWavesForAHalo) {
    const Size size(300, 200);
    const auto widthOf = [&](double radius) {  // of the mend of a dark grain on a bright wave
        Image worn(size, CV_16UC3);
        for (int y = 0; y < size.height; ++y)
            for (int x = 0; x < size.width; ++x) {
                const double off = std::hypot(x - 150, y - 100) - radius;
                const double tone = 36000 + 900 * std::cos((x - 150) / 9.0);
                worn.at<cv::Vec3w>(y, x) =
                    cv::Vec3w::all(ushort(tone * (1 - 0.3 / (1 + std::exp(off / 0.8)))));
            }
        return fitted(worn, disc({150, 100}, float(radius), size), Edge::Sharp).region.box.width;
    };
    EXPECT_LE(widthOf(2), 12) << "no further than it is thick";
    EXPECT_LE(widthOf(5), 16) << "what is brighter around it is no dark grain's halo";
}

TEST(Fitted, OfAFlakeGoesNoFurtherForDarkCloudsBeyond) {
    Image worn(kSize, CV_16UC3, cv::Scalar::all(13000));
    cv::circle(worn, {200, 150}, 26, cv::Scalar::all(12300), 8);  // 8 to 16 px from the flake
    cv::circle(worn, {200, 150}, 14, cv::Scalar::all(5000), -1);
    cv::GaussianBlur(worn, worn, {}, 0.8);
    const Region found = disc({200, 150}, 14, kSize);
    EXPECT_LE(fitted(worn, found, Edge::Sharp).region.box.width, found.box.width + 6);
}

TEST(Fitted, StaysCloseInBusySurroundings) {
    const Region found = disc({200, 150}, 10, kSize);
    EXPECT_LE(footprint(fitted(testkit::grass(kSize), found, Edge::Soft), kSize).box.width,
              found.box.width + 8);
}

TEST(Split, CoversTheHoleWithoutOverlap) {
    std::vector<Point> hole;
    for (int y = 0; y < 70; ++y)
        for (int x = 0; x < 50; ++x) hole.emplace_back(x, y);
    Mask seen(70, 50, CV_8U, cv::Scalar(0));
    for (const auto& piece : split(hole, 16))
        for (const Point& p : piece) seen.at<uchar>(p) = uchar(seen.at<uchar>(p) + 1);
    EXPECT_EQ(cv::countNonZero(seen != 1), 0);
}

TEST(MakePatch, APlacedSourceIsTakenAsItLies) {
    const Image grass = testkit::grass(kSize);
    Mend m = discMend({100, 150}, 12);
    m.method = Method::Clone;
    m.softness = 0;
    m.source = Point(120, 0);
    const std::vector<Region> mendedBefore{disc({224, 154}, 9, kSize)};
    const Image out = mended(grass, m, mendedBefore);
    EXPECT_TRUE(testkit::equal(out({96, 146, 8, 8}), grass({216, 146, 8, 8})));
}

}  // namespace
}  // namespace gq::mend
