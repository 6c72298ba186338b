// Each method of Mend against a known truth.
#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/mend/checks.h"
#include "core/mend/patch.h"
#include "core/mend/see_through.h"
#include "core/mend/sift.h"
#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"
#include "tests/core/mend/mended.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

using testkit::psnr;

const Size kSize(400, 300);

Mask maskOf(const Region& region) {
    Mask out(kSize, CV_8U, cv::Scalar(0));
    paint(out, region);
    return out;
}

/// Stripes with noise: what a completion has to continue.
Image stripes(float turn) {
    Image out(kSize, CV_16UC3);
    for (int y = 0; y < kSize.height; ++y)
        for (int x = 0; x < kSize.width; ++x) {
            const float along = float(x) * std::cos(turn) + float(y) * std::sin(turn);
            const float v = 0.5f + 0.3f * std::sin(along * 0.35f) + 0.01f * hashNormal(3, x, y);
            for (int c = 0; c < 3; ++c)
                out.ptr<ushort>(y)[3 * x + c] = cv::saturate_cast<ushort>(v * 60000);
        }
    return out;
}

Image blanked(const Image& clean, const Region& region) {
    Image out = clean.clone();
    out.setTo(cv::Scalar::all(62000), maskOf(region));
    return out;
}

struct Case {
    const char* name;
    Method method;
    double least;  ///< dB inside the hole
};
class OnStripes : public testing::TestWithParam<Case> {};
INSTANTIATE_TEST_SUITE_P(Methods, OnStripes,
                         testing::Values(Case{"heal", Method::Heal, 24},
                                         Case{"clone", Method::Clone, 24},
                                         Case{"span", Method::Span, 24},
                                         Case{"rebuild", Method::Rebuild, 22}));

TEST_P(OnStripes, ContinuesThePatternAndLeavesTheRestAlone) {
    Mend m;
    m.region = disc({200, 150}, 14, kSize);
    m.method = GetParam().method;
    const Image clean = stripes(0.4f), worn = blanked(clean, m.region), out = mended(worn, m);
    EXPECT_GT(psnr(out, clean, maskOf(m.region)), GetParam().least);
    EXPECT_EQ(testkit::worstOutside(out, worn, maskOf(footprint(m, kSize))), 0);
}

TEST_P(OnStripes, IsTheSameForAnyThreadCount) {
    Mend m;
    m.region = disc({200, 150}, 20, kSize);
    m.method = GetParam().method;
    const Image worn = blanked(stripes(0.4f), m.region);
    setThreads(1);
    const Image one = mended(worn, m);
    setThreads(0);
    EXPECT_TRUE(testkit::equal(one, mended(worn, m)));
}

TEST(Rebuild, GivesAnotherResultForAnotherSeedAndTheSameForTheSame) {
    Mend m;
    m.region = disc({200, 150}, 40, kSize);
    m.method = Method::Rebuild;
    const Image worn = blanked(testkit::grass(kSize), m.region), first = mended(worn, m);
    EXPECT_TRUE(testkit::equal(first, mended(worn, m)));
    m.candidate = 1;
    EXPECT_FALSE(testkit::equal(first, mended(worn, m)));
}

TEST(Rebuild, CopiesFromWithinAlone) {
    Image pixels = stripes(0.3f);
    pixels.colRange(200, kSize.width).setTo(cv::Scalar::all(30000));
    Mend m;
    m.method = Method::Rebuild;
    m.region = disc({235, 150}, 30, kSize);
    const auto texture = [&](const Image& out) {
        cv::Scalar mean, spread;
        cv::meanStdDev(out({227, 142, 16, 16}), mean, spread);
        return spread[1];
    };
    EXPECT_LT(texture(mended(pixels, m)), 1000) << "as plain as beside it";
    m.within = regionOf(Mask(200, 140, CV_8U, cv::Scalar(255)), {40, 50});
    EXPECT_GT(texture(mended(pixels, m)), 5000);
    m.within = regionOf(Mask(4, 4, CV_8U, cv::Scalar(255)), {20, 50});
    const auto none = makePatch({pixels, {}}, m);
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().remedy.find("bounds"), std::string::npos);
}

TEST(Rebuild, FillsATornCornerAndSaysWhenThereIsNothingToCopy) {
    Mend m;
    m.region = disc({4, 4}, 40, kSize);
    m.method = Method::Rebuild;
    const Image clean = testkit::sky(kSize), worn = blanked(clean, m.region);
    EXPECT_GT(psnr(mended(worn, m), clean, maskOf(m.region)), 28);
    m.region = regionOf(Mask(kSize, CV_8U, cv::Scalar(255)));
    const auto none = makePatch({worn, {}}, m);
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().kind, Error::Kind::BadSetting);
}

TEST(Rebuild, IsAsFinelyTexturedAsWhatWasThere) {
    Mend m;
    m.region = disc({200, 150}, 45, kSize);
    m.method = Method::Rebuild;
    m.softness = 0;
    const auto fineDetail = [&](const Image& picture) {
        cv::Mat values, soft;
        picture.convertTo(values, CV_32F);
        cv::GaussianBlur(values, soft, {}, 1.5);
        cv::Scalar mean, deviation;
        cv::meanStdDev(values - soft, mean, deviation, maskOf(m.region));
        return deviation[1];
    };
    for (const Image& clean : {testkit::grass(kSize), testkit::stones(kSize)}) {
        const double share = fineDetail(mended(blanked(clean, m.region), m)) / fineDetail(clean);
        EXPECT_GT(share, 0.6) << "softer than its surroundings";
        EXPECT_LT(share, 1.25);
    }
}

TEST(Rebuild, ShowsNoSeam) {
    Mend m;
    m.region = disc({200, 150}, 45, kSize);
    m.method = Method::Rebuild;
    for (const float softness : {0.0f, 2.0f})
        for (const Image& clean : {testkit::grass(kSize), testkit::sky(kSize)}) {
            m.softness = softness;
            Image out = blanked(clean, m.region);
            const auto patch = makePatch({out, {}}, m);
            ASSERT_TRUE(patch);
            lay(*patch, out);
            EXPECT_LT(checked(out, m, *patch).seam, 1.15f);
        }
}

TEST(Clone, CopiesTheSourceExactly) {
    Mend m;
    m.region = disc({120, 150}, 12, kSize);
    m.method = Method::Clone;
    m.source = Point(90, 20);
    m.softness = 0;
    const Image worn = testkit::grass(kSize), out = mended(worn, m);
    const Rect inside(114, 144, 12, 12);
    EXPECT_TRUE(testkit::equal(out(inside).clone(), worn(inside + *m.source).clone()));
}

TEST(Heal, FromFarAwayIsAsFromNearWhereTheTextureRepeats) {
    const Image tile = testkit::grass({64, 64});
    Image pixels;
    cv::repeat(tile, kSize.height / 64 + 1, kSize.width / 64 + 1, pixels);
    pixels = pixels(Rect({0, 0}, kSize)).clone();
    Mend near;
    near.region = disc({90, 90}, 26, kSize);
    near.turn = {.degrees = 30};
    Mend far = near;
    near.source = Point(64, 0);  // so near that the boxes of place and source meet
    far.source = Point(128, 0);
    const auto off = [&] {
        return cv::norm(mended(pixels, near), mended(pixels, far), cv::NORM_INF);
    };
    EXPECT_LE(off(), 2);  // of 65535
    far.source = Point(128, 3);
    EXPECT_GT(off(), 1000);
}

TEST(Clone, TurnsAndMirrorsItsSource) {
    Mend m;
    m.region =
        regionOf(Mask(kSize, CV_8U, cv::Scalar(255))(Rect(0, 0, 21, 21)).clone(), {100, 100});
    m.method = Method::Clone;
    m.source = Point(150, 0);
    m.softness = 0;
    const Image worn = testkit::grass(kSize);
    m.turn.mirrored = true;
    Image flipped;
    cv::flip(worn(Rect(250, 100, 21, 21)), flipped, 1);
    EXPECT_LE(cv::norm(mended(worn, m)(Rect(100, 100, 21, 21)), flipped, cv::NORM_INF), 2);
    m.turn = {.degrees = 90};
    Image turned;
    cv::rotate(worn(Rect(250, 100, 21, 21)), turned, cv::ROTATE_90_CLOCKWISE);
    EXPECT_LE(cv::norm(mended(worn, m)(Rect(100, 100, 21, 21)), turned, cv::NORM_INF), 2);
    m.source = Point(290, 0);
    EXPECT_FALSE(makePatch({worn, {}}, m)) << "part of the source lies outside the picture";
}

TEST(Unshade, BringsBackWhatLiesUnderAShadow) {
    const Image clean = testkit::sky(kSize), worn = testkit::dusty(clean, {{{200, 150}, 18, 0.3f}});
    Mend m;
    m.region = disc({200, 150}, 22, kSize);
    m.method = Method::Unshade;
    EXPECT_GT(psnr(mended(worn, m), clean, maskOf(m.region)),
              psnr(worn, clean, maskOf(m.region)) + 8);
}

TEST(Unshade, TellsTheShareItDividesOut) {
    const Image worn = testkit::dusty(testkit::sky(kSize), {{{200, 150}, 18, 0.3f}});
    Mend m;
    m.region = disc({200, 150}, 22, kSize);
    m.method = Method::Unshade;
    const auto depthAt = [&](float strength) {
        m.strength = strength;
        const auto shade = shadeOf({worn, {}}, m);
        EXPECT_TRUE(shade && *shade);
        return 1 - std::exp((*shade)->logShare.at<float>(Point(200, 150) - (*shade)->box.tl()));
    };
    EXPECT_NEAR(depthAt(1), 0.3f, 0.03f);
    EXPECT_LT(depthAt(0.5f), 0.8f * depthAt(1));
    EXPECT_NEAR(depthAt(0), 0, 1e-6);
    m.method = Method::Heal;
    EXPECT_FALSE(*shadeOf({worn, {}}, m)) << "nothing is divided";
}

TEST(Sift, TakesSpecksOfTheSizeAndNothingElse) {
    const Image clean = testkit::sky(kSize);
    const std::vector<testkit::Spot> small{{{120, 120}, 3, 0.5f}, {{160, 140}, 3, 0.5f}},
        large{{{260, 150}, 22, 0.5f}};
    std::vector<testkit::Spot> all = small;
    all.insert(all.end(), large.begin(), large.end());
    const Image worn = testkit::specked(clean, all);
    Mend m;
    m.region = disc({200, 150}, 140, kSize);
    m.method = Method::Sift;
    m.sifting.largest = 16;
    EXPECT_EQ(specks(worn, m.region, m.sifting).size(), 2u);
    const auto patch = makePatch({worn, {}}, m);
    ASSERT_TRUE(patch);
    EXPECT_LT(cv::countNonZero(patch->footprint), 700);
    EXPECT_GT(psnr(mended(worn, m), clean, testkit::maskOf(small, kSize, 1)), 30);
    const Rect kept(240, 130, 40, 40);
    EXPECT_TRUE(testkit::equal(mended(worn, m)(kept).clone(), worn(kept).clone()));
}

TEST(Sift, TellsSpecksFromTheTextureTheyLieOn) {
    const Image clean = testkit::grass(kSize);
    std::vector<testkit::Spot> spots;
    for (int i = 0; i < 12; ++i)
        spots.push_back({{float(100 + 40 * (i % 4)), float(90 + 40 * (i / 4))}, 2.5f, 0.9f});
    Image worn = testkit::dusty(clean, spots);
    for (auto& s : spots) s.at += PointF(5, 3);  // light ones that touch the dark ones
    worn = testkit::specked(worn, spots);
    const Region area = disc({170, 140}, 120, kSize);
    Mask found(kSize, CV_8U, cv::Scalar(0));
    for (const auto& r : specks(worn, area, {})) paint(found, r);
    int hit = 0;
    for (const auto& s : spots) hit += found.at<uchar>(Point(s.at)) > 0;
    EXPECT_GE(hit, 10);
    Mask away = testkit::maskOf(spots, kSize, 5) == 0;
    EXPECT_LT(cv::countNonZero(found & away), 0.03 * area.area());
}

TEST(TouchIn, LaysItsToneWithGrain) {
    Mend m;
    m.region = disc({200, 150}, 20, kSize);
    m.method = Method::TouchIn;
    m.tone = {0.2f, 0.4f, 0.6f};
    const Image out = mended(testkit::sky(kSize), m);
    const auto mean = cv::mean(out, maskOf(m.region));
    for (int c = 0; c < 3; ++c) EXPECT_NEAR(mean[c] / 65535, double(m.tone[size_t(c)]), 0.01);
    cv::Scalar all, deviation;
    cv::meanStdDev(out(Rect(195, 145, 10, 10)), all, deviation);
    EXPECT_GT(deviation[1], 20) << "flat tone would show";
}

/// A line along the whole picture that lets a share of the light through.
Image scratched(const Image& clean, float share) {
    Image out = clean.clone();
    for (int y = 148; y <= 150; ++y)
        for (int i = 0; i < 3 * out.cols; ++i) {
            auto& v = out.ptr<ushort>(y)[i];
            v = fromLinear(std::min(1.0f, toLinear(v) * share));
        }
    return out;
}

class Line : public testing::Test {
  protected:
    Line() {
        m.method = Method::Span;
        m.region = stroke({{0, 149.5f}, {400, 149.5f}}, 5, kSize);
    }
    Mend m;
    Mask line = maskOf(stroke({{0, 149.5f}, {400, 149.5f}}, 3, kSize));
};

TEST_F(Line, ThatThePictureShowsThroughKeepsIt) {
    const Image clean = testkit::grass(kSize);
    for (const float share : {0.6f, 1.5f}) {  // dust holds back, a scratch lets through
        const Image worn = scratched(clean, share), out = mended(worn, m);
        EXPECT_GT(psnr(out, clean, line), psnr(worn, clean, line) + 6) << share;
        EXPECT_GT(psnr(out, clean, line),
                  psnr(mended(blanked(clean, m.region), m), clean, line) + 4)
            << "more than texture from beside can";
        EXPECT_EQ(testkit::worstOutside(out, worn, maskOf(footprint(m, kSize))), 0);
    }
}

TEST_F(Line, DoesNotReadWhatLiesUnderOtherMends) {
    const Region other = disc({200, 160}, 14, kSize);  // over the line and beside it
    const auto with = [&](double tone) {
        Image worn = scratched(testkit::grass(kSize), 0.6f);
        worn.setTo(cv::Scalar::all(tone), maskOf(other));
        Image out = mended(worn, m, {other});
        out.setTo(cv::Scalar::all(0), maskOf(other));
        return out;
    };
    EXPECT_TRUE(testkit::equal(with(5000), with(60000)));
}

TEST_F(Line, IsSeenThroughOnlyWhereItIsLongAndStraight) {
    const Image worn = testkit::grass(kSize);
    const std::vector<Region> none;
    const auto isSeen = [&](const std::vector<PointF>& way) {
        const Region r = stroke(way, 3, kSize);
        return seeThrough({worn, Rect({0, 0}, kSize), {}, none}, maskOf(r), {}).has_value();
    };
    EXPECT_TRUE(isSeen({{20, 100}, {130, 104}}));
    EXPECT_TRUE(isSeen({{100, 20}, {104, 130}}));
    EXPECT_FALSE(isSeen({{20, 100}, {100, 100}})) << "short";
    EXPECT_FALSE(isSeen({{20, 100}, {220, 160}})) << "askew";
}

TEST_F(Line, ThatHidesThePictureIsMadeAnew) {
    const Image clean = testkit::grass(kSize), worn = blanked(clean, m.region);
    const Image out = mended(worn, m);
    const auto detail = [&](const Image& p) {
        cv::Scalar mean, deviation;
        cv::meanStdDev(p, mean, deviation, line);
        return deviation[1];
    };
    EXPECT_GT(detail(out), 0.5 * detail(clean));
}

TEST(MethodFor, FollowsTheShape) {
    EXPECT_EQ(methodFor(disc({100, 100}, 6, kSize)), Method::Heal);
    EXPECT_EQ(methodFor(stroke({{20, 20}, {300, 200}}, 5, kSize)), Method::Span);
    EXPECT_EQ(methodFor(disc({150, 150}, 60, kSize)), Method::Rebuild);
}

TEST(Heal, HasOtherResultsFromReallyOtherPlaces) {
    const Image clean = testkit::grass(kSize);
    Mend m;
    m.region = disc({200, 150}, 8, kSize);
    std::vector<Point> sources;
    for (m.candidate = 1; m.candidate <= 4; ++m.candidate) {
        const auto patch = makePatch({clean, {}}, m);
        ASSERT_TRUE(patch);
        for (const Point& other : sources) EXPECT_GT(cv::norm(patch->source - other), 6);
        sources.push_back(patch->source);
    }
}

}  // namespace
}  // namespace gq::mend
