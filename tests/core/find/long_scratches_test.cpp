#include "core/find/long_scratches.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/find/find.h"
#include "core/pixels/color.h"
#include "sim/wear.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(900, 700);
constexpr int kAt = 430;  ///< the line's column

/// Lifts what lies right of the line and lowers what lies left of it, over `reach` px.
Image shaded(const Image& on, double by, int reach) {
    Image out = on.clone();
    for (int d = 2; d < reach; ++d) {
        const double fade = by * 65535 * (1 - double(d) / reach);
        out(Rect(kAt + d, 0, 1, kSize.height)) += cv::Scalar::all(fade);
        out(Rect(kAt - d, 0, 1, kSize.height)) -= cv::Scalar::all(fade);
    }
    return out;
}

/// A light line down the picture; `soft`: deviation of its edge, px.
Image lined(const Image& on, float opacity, float soft = 0) {
    ImageF share(kSize, CV_32F, cv::Scalar(0));
    share(Rect(kAt - 1, 0, 3, kSize.height)) = opacity;
    if (soft > 0) {
        share(Rect(kAt - int(2 * soft), 0, int(4 * soft), kSize.height)) = opacity;
        cv::GaussianBlur(share, share, {}, double(soft));
    }
    Image out = on.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const float k = share.at<float>(y, x);
            for (int c = 0; c < 3; ++c) {
                auto& v = out.at<cv::Vec<ushort, 3>>(y, x)[c];
                v = cv::saturate_cast<ushort>(float(v) * (1 - k) + 59000 * k);
            }
        }
    return out;
}

bool hasLine(const Image& picture) {
    return std::ranges::any_of(longLinesOf(picture, Polarity::Light).all, [](const auto& line) {
        return line.region.box.contains({kAt, 350});
    });
}

/// Length of the surest line at the place; 0 = none is taken for a blemish.
float lengthIn(const Image& picture, Origin origin) {
    float out = 0;
    for (const auto& f : longScratches(picture, origin, Polarity::Light, 0.5f))
        if (f.region.box.contains({kAt, 350})) out = std::max(out, f.measures.length);
    return out;
}

TEST(LongScratches, OneFaintScratchAcrossTheFilmIsOneFinding) {
    sim::Worn worn{testkit::sky(kSize), testkit::sky(kSize), {}};
    for (const bool level : {false, true}) {
        const PointF start = level ? PointF(-10, 300) : PointF(450, -10);
        sim::Dice dice(3);
        auto run = sim::scratchRun(start, level ? 0 : 1.5708f, level ? 940 : 730, 1.5f, dice);
        for (auto& p : run) p.strength = 0.8f;
        sim::Worn one = worn;
        sim::layScratch(one, run, 0.97f, 0.3f);
        const auto found = find({one.worn, 16}, {.origin = Origin::Negative});
        ASSERT_TRUE(found);
        const auto longest = std::max_element(
            found->begin(), found->end(),
            [](const auto& a, const auto& b) { return a.measures.length < b.measures.length; });
        ASSERT_NE(longest, found->end());
        EXPECT_EQ(longest->kind, Kind::Scratch);
        EXPECT_GE(longest->confidence, 0.5f);
        EXPECT_GT(longest->measures.length, level ? 800 : 600);
    }
}

TEST(LongScratches, TellsThemFromLinesAndEdgesOfThePicture) {
    const Image clean = testkit::sky(kSize);
    EXPECT_GT(lengthIn(lined(clean, 0.2f), Origin::Negative), 600);
    EXPECT_EQ(lengthIn(clean, Origin::Negative), 0);
    const Image soft = lined(clean, 0.4f, 2);
    EXPECT_TRUE(hasLine(soft));
    EXPECT_EQ(lengthIn(soft, Origin::Negative), 0) << "broad and out of focus";
    Image slats = testkit::grass(kSize);
    for (int x = 20; x < kSize.width; x += 41) slats.colRange(x, x + 3) += cv::Scalar::all(9000);
    EXPECT_TRUE(longScratches(slats, Origin::Negative, Polarity::Light, 0.5f).empty());
}

TEST(LongScratches, OfAPrintAreFoldsAndStraightCracks) {
    const Image clean = testkit::sky(kSize);
    EXPECT_GT(lengthIn(lined(shaded(clean, 0.06, 12), 0.2f), Origin::Print), 600);
    EXPECT_GT(lengthIn(lined(shaded(clean, -0.06, 12), 0.2f), Origin::Print), 600)
        << "lit from the other side";
    EXPECT_EQ(lengthIn(clean, Origin::Print), 0);
    EXPECT_TRUE(longScratches(clean, Origin::Sensor, Polarity::Dark, 0).empty());
}

TEST(LongLines, AreAllThereAreAndNoneOnceStopped) {
    const Image picture = lined(testkit::sky(kSize), 0.3f);
    const auto lines = longLinesOf(picture, Polarity::Light);
    EXPECT_TRUE(std::ranges::any_of(lines.all, [](const auto& l) {
        return l.region.box.contains({kAt, 350});
    }));
    std::stop_source source;
    source.request_stop();
    EXPECT_TRUE(longLinesOf(picture, Polarity::Light, source.get_token()).all.empty());
}

TEST(LongScratches, LeaveAStraightHairItsNameAndWidth) {
    const auto lineOf = [](Kind kind, int length, float width, float confidence) {
        Finding f;
        f.kind = kind;
        f.confidence = confidence;
        f.region = stroke({{kAt, 100}, {kAt, 100 + float(length)}}, width, kSize);
        f.measures.length = float(length);
        return f;
    };
    const auto left = [&](Finding candidate) {
        std::vector<Finding> lines{lineOf(Kind::Scratch, 200, 3, 0.98f)}, all{candidate};
        leaveOutFollowed(lines, all, kSize);
        EXPECT_FLOAT_EQ(all[0].confidence, lines.empty() ? 0.98f : candidate.confidence);
        return lines.size();
    };
    EXPECT_EQ(left(lineOf(Kind::Fibre, 190, 6, 0.7f)), 0u);
    EXPECT_EQ(left(lineOf(Kind::Fibre, 190, 6, 0.4f)), 1u) << "not sure of it";
    EXPECT_EQ(left(lineOf(Kind::Fibre, 90, 6, 0.7f)), 1u) << "a part of it only";
    EXPECT_EQ(left(lineOf(Kind::Speck, 190, 6, 0.7f)), 1u);
}

TEST(LineFeatures, SayWhatALineIsLike) {
    Image picture(kSize, CV_16UC3, cv::Scalar::all(0.4 * 65535));
    picture.colRange(kAt, kSize.width) += cv::Scalar::all(0.1 * 65535);
    picture(Rect(kAt - 1, 100, 3, 500)).setTo(cv::Scalar(0.7 * 65535, 0.65 * 65535, 0.65 * 65535));
    const ImageF tone = luma(picture), ridges(kSize, CV_32F, cv::Scalar(0.5f));
    const Region line{Rect(kAt - 1, 100, 3, 500), Mask(500, 3, CV_8U, cv::Scalar(255))};
    const auto f = featuresOf({picture, tone, ridges, 1, false}, line);
    EXPECT_NEAR(f[LineContrast], 0.21f, 0.01f);
    EXPECT_NEAR(f[SidesDiffer], 0.1f / f[LineContrast], 0.02f);
    EXPECT_NEAR(f[SidesOverFar], 0, 0.01f) << "an edge, not a fold";
    EXPECT_LT(f[LineWanders], 0.1f);
    EXPECT_EQ(f[LineEndsAtEdge], 0);
    EXPECT_LT(f[LineGoesOn], 0.2f);
    EXPECT_NEAR(f[EdgeGoesOn], f[SidesDiffer], 0.02f);
    EXPECT_NEAR(f[LineColour], 0.05f / f[LineContrast], 0.02f);
    EXPECT_NEAR(f[LineStrength], 0.5f, 1e-5f);
    const Region all{Rect(kAt - 1, 0, 3, kSize.height),
                     Mask(kSize.height, 3, CV_8U, cv::Scalar(255))};
    EXPECT_EQ(featuresOf({picture, tone, ridges, 1, true}, all)[LineEndsAtEdge], 2);
}

TEST(Find, SeesAFaintFoldOfAPrintWholeAndNoneWithoutIt) {
    const auto longest = [](const Image& picture) {
        const auto found = find({picture, 16}, {.origin = Origin::Print});
        EXPECT_TRUE(found);
        float out = 0;
        for (const auto& f : *found)
            if (f.kind == Kind::Crack && f.confidence >= 0.5f && f.region.box.contains({kAt, 350}))
                out = std::max(out, f.measures.length);
        return out;
    };
    const Image clean = testkit::grass(kSize);
    EXPECT_GT(longest(lined(shaded(clean, 0.07, 12), 0.2f)), 300);
    EXPECT_EQ(longest(clean), 0);
}

}  // namespace
}  // namespace gq::find
