#include "core/carry/shadow_series.h"

#include <fmt/core.h>
#include <gtest/gtest.h>

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/carry/carry.h"
#include "core/carry/chart_file.h"
#include "core/files/safe_write.h"
#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "core/render/compose.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(420, 320);
const Point kGrain(180, 140);

/// Share let through by one grain at an opening: a disc in the penumbra of that opening.
ImageF lightAt(double aperture, float depth = 0.3f) {
    ImageF held(kSize, CV_32F, cv::Scalar(0));
    cv::circle(held, kGrain, 9, cv::Scalar(1), -1, cv::LINE_8);
    cv::GaussianBlur(held, held, {}, 40 / aperture);
    return 1 - held * depth;
}

Image clean(std::uint32_t seed) {
    Image out = testkit::sky(kSize, seed);
    const int horizon = 170 + int(seed % 3) * 40;
    const Rect below(0, horizon, kSize.width, kSize.height - horizon);
    testkit::grass(kSize, seed)(below).copyTo(out(below));
    return out;
}

Image dimmed(const Image& picture, const ImageF& light) {
    Image out = picture.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x)
            for (int c = 0; c < 3; ++c) {
                auto& v = out.ptr<ushort>(y)[3 * x + c];
                v = fromLinear(toLinear(v) * light.at<float>(y, x));
            }
    return out;
}

series::Frame frameAt(double aperture) {
    auto f = testkit::frameOf("f", kSize);
    f.aperture = aperture;
    return f;
}

Region place() {
    return disc(PointF(kGrain), 10, kSize);
}

double openingOf(std::uint32_t seed) {
    return std::array{16.0, 11.0, 8.0}[seed % 3];
}

Shadow solvedFrom(int frames) {
    ShadowSeries series({place()});
    for (std::uint32_t i = 1; i <= std::uint32_t(frames); ++i)
        series.add(dimmed(clean(i), lightAt(openingOf(i))), frameAt(openingOf(i)));
    return series.solved()->front();
}

/// Solved once: it takes a while.
const Shadow& learnt() {
    static const Shadow shadow = solvedFrom(9);
    return shadow;
}

Image mended(const Image& worn, const series::Frame& frame, const mend::Mend& mend) {
    series::Frame with = frame;
    with.mends.push_back({1, mend, 0, false});
    return *render::composed(worn, with, 0.5f);
}

Mask dust() {
    return lightAt(11) < 0.98f;
}

TEST(ShadowSeries, FramesOfOneSceneTellNothingMore) {
    ShadowSeries series({place()});
    for (int i = 0; i < 6; ++i) series.add(dimmed(testkit::grass(kSize), lightAt(16)), frameAt(16));
    EXPECT_TRUE(series.solved()->front().empty()) << "one frame in effect";
}

TEST(Shadows, BringBackTheTruePictureAtEveryOpening) {
    const Shadow shadow = learnt();
    ASSERT_FALSE(shadow.empty());
    EXPECT_EQ(shadow.aperture, 16);
    for (const std::uint32_t seed : {20u, 21u, 22u}) {  // not among the nine
        const auto frame = frameAt(openingOf(seed));
        const Image truth = clean(seed), worn = dimmed(truth, lightAt(frame.aperture));
        const auto fit = fitShadow(shadow, worn, frame);
        ASSERT_FALSE(fit.mend.region.empty());
        EXPECT_TRUE(fit.shows);
        const double before = testkit::psnr(worn, truth, dust());
        EXPECT_GT(testkit::psnr(mended(worn, frame, fit.mend), truth, dust()), before + 12)
            << "f/" << frame.aperture;
    }
}

TEST(Shadows, AreLearntAndDividedOutWhereNoFrameTellsItsOpening) {
    ShadowSeries series({place()});
    for (std::uint32_t i = 1; i <= 9; ++i)
        series.add(dimmed(testkit::sky(kSize, i), lightAt(openingOf(i))), frameAt(0));
    const Shadow shadow = series.solved()->front();
    EXPECT_EQ(shadow.aperture, 0);
    EXPECT_GT(shadow.spread, 0) << "their softness tells them apart";
    const Point middle = kGrain - shadow.box.tl();
    EXPECT_NEAR(shadow.held.at<float>(middle), 1 - lightAt(16).at<float>(kGrain), 0.02f)
        << "as the sharpest of them show it";
    for (const std::uint32_t seed : {20u, 21u, 22u}) {
        const Image truth = testkit::sky(kSize, seed),
                    worn = dimmed(truth, lightAt(openingOf(seed)));
        const auto fit = fitShadow(shadow, worn, frameAt(0));
        EXPECT_GT(testkit::psnr(mended(worn, frameAt(0), fit.mend), truth, dust()),
                  testkit::psnr(worn, truth, dust()) + 12)
            << "f/" << openingOf(seed);
    }
}

TEST(Shadows, AreDividedOutAsDeepAsTheFrameShowsThem) {
    const Shadow shadow = learnt();
    const auto frame = frameAt(11);
    const auto whole = fitShadow(shadow, dimmed(clean(1), lightAt(11)), frame),
               half = fitShadow(shadow, dimmed(clean(1), lightAt(11, 0.15f)), frame);
    EXPECT_NEAR(half.strength / whole.strength, 0.47, 0.12);
}

TEST(Shadows, OfAHairLeaveTheGroundBesideItInSight) {
    Mask hair = Mask::zeros(kSize, CV_8U);
    cv::line(hair, {120, 100}, {290, 112}, cv::Scalar(255), 5);
    ImageF held;
    hair.convertTo(held, CV_32F, 0.25 / 255);
    cv::GaussianBlur(held, held, {}, 3);
    ShadowSeries series({regionOf(hair)});
    for (std::uint32_t i = 1; i <= 6; ++i)  // grass from 35 px under the hair on
        series.add(dimmed(clean(3 * i), 1 - held), frameAt(11));
    const Shadow shadow = series.solved()->front();
    ASSERT_FALSE(shadow.empty());
    EXPECT_LT(shadow.box.height, 90);
    ImageF off;
    cv::absdiff(shadow.held, held(shadow.box), off);
    EXPECT_LT(cv::mean(off, hair(shadow.box))[0], 0.03);
}

/// Soft dark and light clouds, deeper than the grain's shadow and about as large.
Image clouded(std::uint32_t seed) {
    ImageF picture, cloud(kSize, CV_32F);
    clean(seed).convertTo(picture, CV_32F);
    for (int y = 0; y < kSize.height; ++y)
        for (int x = 0; x < kSize.width; ++x)
            cloud.at<float>(y, x) =
                1 + 0.4f * fractalNoise(seed, float(x) * 0.015f, float(y) * 0.015f, 3);
    cv::merge(std::vector<cv::Mat>{cloud, cloud, cloud}, cloud);
    picture = picture.mul(cloud);
    Image out;
    picture.convertTo(out, CV_16U);
    return out;
}

TEST(Shadows, AreToldFromCloudsByTheirSteeperRim) {
    const auto frame = frameAt(16);
    for (const std::uint32_t seed : {1u, 2u, 3u, 4u}) {
        const Image truth = clouded(seed), worn = dimmed(truth, lightAt(16));
        const auto fit = fitShadow(learnt(), worn, frame);
        EXPECT_TRUE(fit.shows) << seed;
        EXPECT_NEAR(fit.strength, 1, 0.4);
        EXPECT_GT(testkit::psnr(mended(worn, frame, fit.mend), truth, dust()),
                  testkit::psnr(worn, truth, dust()) + 8);
        EXPECT_FALSE(fitShadow(learnt(), truth, frame).shows) << "clouds alone, " << seed;
    }
}

TEST(Shadows, AreDividedOutAsSoftAsTheFrameShowsThem) {
    // The f-number is told wrongly: the frame shows the grain as at f/8.
    const auto frame = frameAt(16);
    const Image truth = clean(5), worn = dimmed(truth, lightAt(8));
    const auto fit = fitShadow(learnt(), worn, frame);
    ASSERT_TRUE(fit.shows);
    EXPECT_GT(testkit::psnr(mended(worn, frame, fit.mend), truth, dust()),
              testkit::psnr(worn, truth, dust()) + 6);
}

TEST(Shadows, OfSmallGrainsAreAsSharpAsTheyWere) {
    const auto light = [](double aperture) {
        ImageF held(kSize, CV_32F, cv::Scalar(0));
        cv::circle(held, kGrain, 3, cv::Scalar(1), -1, cv::LINE_8);
        cv::GaussianBlur(held, held, {}, 16 / aperture);
        return ImageF(1 - held * 0.3f);
    };
    ShadowSeries series({disc(PointF(kGrain), 4, kSize)});
    for (std::uint32_t i = 1; i <= 9; ++i)
        series.add(dimmed(testkit::sky(kSize, i), light(openingOf(i))), frameAt(openingOf(i)));
    const auto fit = fitShadow(series.solved()->front(), dimmed(testkit::sky(kSize, 20), light(11)),
                               frameAt(11));
    ASSERT_TRUE(fit.mend.shade);
    ImageF truth, made = ImageF::zeros(kSize, CV_32F);
    cv::log(light(11), truth);
    fit.mend.shade->logShare.copyTo(made(fit.mend.shade->box));
    EXPECT_NEAR(made.at<float>(kGrain), truth.at<float>(kGrain), 0.04f)
        << "more was lost to the blur of learning";
    for (const int away : {3, 4, 5, 6})
        EXPECT_NEAR(made.at<float>(kGrain + Point(away, 0)),
                    truth.at<float>(kGrain + Point(away, 0)), 0.02f)
            << away;
}

/// Solved of frames a minute apart, in the first `last` of which the grain lay.
Shadow witnessed(int last, int frames) {
    ShadowSeries series({place()});
    for (std::uint32_t i = 1; i <= std::uint32_t(frames); ++i) {
        auto frame = frameAt(16);
        frame.taken = fmt::format("2026:06:01 10:{:02}:00", i);
        const Image truth = testkit::sky(kSize, i);
        series.add(int(i) <= last ? dimmed(truth, lightAt(16)) : truth, frame);
    }
    return series.solved()->front();
}

TEST(Shadows, AreDividedOutOfBusyGroundWhereTheFramesNearInTimeShowThem) {
    auto shadow = witnessed(9, 9);
    auto frame = frameAt(16);
    frame.taken = "2026:06:01 10:04:30";
    const Image truth = testkit::grass(kSize, 31), worn = dimmed(truth, lightAt(16, 0.1f));
    const auto fit = fitShadow(shadow, worn, frame);
    ASSERT_TRUE(fit.shows);
    for (auto& w : shadow.witnesses) w.told = -5;
    EXPECT_FALSE(fitShadow(shadow, worn, frame).shows) << "the ground alone does not tell";
}

TEST(Shadows, ThatWentAreNotDividedOutOfWhatCameAfter) {
    const auto shadow = witnessed(6, 10);
    ASSERT_FALSE(shadow.empty());
    const Image busy = testkit::grass(kSize, 31);
    const auto showsAt = [&](const char* taken, const Image& pixels) {
        auto frame = frameAt(16);
        frame.taken = taken;
        return fitShadow(shadow, pixels, frame).shows;
    };
    EXPECT_TRUE(showsAt("2026:06:01 10:03:30", dimmed(busy, lightAt(16))));
    EXPECT_FALSE(showsAt("2026:06:01 10:09:30", busy));
}

TEST(Shadows, DoNotShowWhereDividingThemOutWouldChangeNothing) {
    const auto frame = frameAt(16);
    Image night = clean(1);
    night *= 1.0 / 400;
    EXPECT_FALSE(fitShadow(learnt(), dimmed(night, lightAt(16)), frame).shows);
    Image glare(kSize, CV_16UC3, cv::Scalar::all(65535));
    EXPECT_FALSE(fitShadow(learnt(), glare, frame).shows);
}

TEST(Shadows, LeaveAFrameAloneThatDoesNotShowTheGrain) {
    series::Frame reference = frameAt(11), target = frameAt(11);
    reference.id = "a";
    target.id = "b";
    reference.mends.push_back({7, {place()}, 0, false});
    series::Id next = 100;
    const auto out = carryTo(clean(1), reference, target, {.reference = "a", .targets = {"b"}},
                             0.5f, next, {{7, learnt()}});
    ASSERT_TRUE(out);
    EXPECT_EQ(out->carried.front().verdict, series::Verdict::NotVisible);
    EXPECT_TRUE(out->mends.empty());
}

TEST(Shadows, AreHealedWhereNothingShinesThrough) {
    ShadowSeries series({place()});
    for (std::uint32_t i = 1; i <= 6; ++i)
        series.add(dimmed(testkit::sky(kSize, i), lightAt(16, 0.99f)), frameAt(16));
    series::Frame reference = frameAt(16), target = frameAt(16);
    reference.id = "a";
    target.id = "b";
    reference.mends.push_back({7, {grown(place(), 6, kSize)}, 0, false});
    series::Id next = 100;
    const auto out =
        carryTo(dimmed(testkit::sky(kSize, 1), lightAt(16, 0.99f)), reference, target,
                {.reference = "a", .targets = {"b"}}, 0.5f, next, {{7, series.solved()->front()}});
    ASSERT_TRUE(out);
    ASSERT_EQ(out->mends.size(), 1u);
    EXPECT_EQ(out->mends.front().mend.method, mend::Method::Heal);
}

/// What the grain's shadow becomes in a frame of its sensor.
series::Frame carriedTo(const Image& worn, bool mayHeal = true) {
    series::Frame reference = frameAt(16), target = frameAt(16);
    reference.id = "a";
    target.id = "b";
    reference.mends.push_back({7, {grown(place(), 6, kSize)}, 0, false});
    series::Id next = 100;
    return *carryTo(worn, reference, target,
                    {.reference = "a", .targets = {"b"}, .mayHeal = mayHeal}, 0.5f, next,
                    {{7, learnt()}});
}

TEST(Shadows, AreHealedWhereTheGroundIsBlownOut) {
    const Image white(kSize, CV_16UC3, cv::Scalar::all(65535)), worn = dimmed(white, lightAt(16));
    const auto out = carriedTo(worn);
    ASSERT_EQ(out.mends.size(), 1u);
    EXPECT_EQ(out.carried.front().verdict, series::Verdict::Mended);
    EXPECT_GT(testkit::psnr(*render::composed(worn, out, 0.5f), white, dust()),
              testkit::psnr(worn, white, dust()) + 12);
    EXPECT_TRUE(carriedTo(white).mends.empty()) << "nothing is there";
}

TEST(Shadows, AreHealedWhereDividingThemOutWouldLeaveMarksOnCalmGround) {
    // The grain has turned: it is as large and as dark, but lies otherwise.
    ImageF held(kSize, CV_32F, cv::Scalar(0));
    cv::ellipse(held, kGrain, {14, 5}, 30, 0, 360, cv::Scalar(0.3), -1);
    cv::GaussianBlur(held, held, {}, 2.5);
    const Image truth = testkit::sky(kSize, 20), worn = dimmed(truth, 1 - held);
    const auto fit = fitShadow(learnt(), worn, frameAt(16));
    EXPECT_TRUE(fit.shows);
    EXPECT_FALSE(fit.clean);
    const auto out = carriedTo(worn);
    ASSERT_EQ(out.mends.size(), 1u);
    EXPECT_EQ(out.mends.front().mend.method, mend::Method::Heal);
    EXPECT_EQ(carriedTo(worn, false).mends.front().mend.method, mend::Method::Unshade)
        << "raw samples cannot be healed";
    const Mask there = held > 0.02f;
    EXPECT_GT(testkit::psnr(*render::composed(worn, out, 0.5f), truth, there),
              testkit::psnr(mended(worn, frameAt(16), fit.mend), truth, there) + 3);
    const Image busy = dimmed(testkit::grass(kSize, 31), 1 - held);
    EXPECT_TRUE(fitShadow(learnt(), busy, frameAt(16)).clean) << "grass hides such marks";
}

class TurnedFrame : public testing::TestWithParam<int> {};
INSTANTIATE_TEST_SUITE_P(Exif, TurnedFrame, testing::Range(1, 9));

TEST_P(TurnedFrame, IsTakenBackByTheSensorsShadow) {
    const auto turn = orientationFromExif(GetParam());
    const Image truth = turned(clean(1), turn), worn = turned(dimmed(clean(1), lightAt(16)), turn);
    auto frame = frameAt(16);
    frame.geometry.stored = worn.size();
    frame.geometry.storedTurn = turn;
    const auto fit = fitShadow(learnt(), worn, frame);
    ASSERT_FALSE(fit.mend.region.empty());
    const Mask where = turned(dust(), turn);
    EXPECT_GT(testkit::psnr(mended(worn, frame, fit.mend), truth, where),
              testkit::psnr(worn, truth, where) + 12);
}

TEST(Shadows, AreLearntFromAtMostTwentyFourFramesEvenlyPicked) {
    std::vector<series::FramePtr> frames;
    for (int i = 0; i < 300; ++i)
        frames.push_back(std::make_shared<const series::Frame>(
            testkit::frameOf("f" + std::to_string(i), kSize)));
    const auto picked = evenlyPicked(frames);
    ASSERT_EQ(picked.size(), 24u);
    EXPECT_EQ(picked.front()->id, "f0");
    EXPECT_EQ(picked[12]->id, "f150");
    frames.resize(5);
    EXPECT_EQ(evenlyPicked(frames).size(), 5u);
}

TEST(Shadows, ComeNearTheTrueOneAndAreLessInDoubtWithMoreFrames) {
    const auto& shadow = learnt();
    const Mask there = dust()(shadow.box);
    const ImageF off = cv::abs(shadow.held - ImageF(1 - lightAt(16))(shadow.box));
    EXPECT_LT(cv::mean(off, there)[0], 0.02);
    EXPECT_LT(cv::mean(shadow.doubt, there)[0], cv::mean(solvedFrom(3).doubt, there)[0]);
}

TEST(Shadows, KeepTheStrengthOfTheMendTheyStandFor) {
    series::Frame frame = frameAt(11);
    frame.mends.push_back({7, {place()}, 0, false});
    frame.mends[0].mend.strength = 0.4f;
    const auto out = unshaded(frame, dimmed(clean(1), lightAt(11)), {{7, learnt()}});
    EXPECT_EQ(out.mends[0].mend.method, mend::Method::Unshade);
    EXPECT_FLOAT_EQ(out.mends[0].mend.strength, 0.4f);
}

TEST(Shadows, TellWhereABlemishShowsThatIsToBeHealed) {
    series::Frame reference = frameAt(16);
    reference.mends.push_back({7, {place()}, 0, false});
    auto target = frameAt(11);
    target.id = "t";
    CarryPlan plan{reference.id, {}, {target.id}};
    plan.unshade = false;
    const auto verdictOn = [&](const Image& pixels, const carry::Shadows& shadows) {
        series::Id next = 1;
        const auto out = carryTo(pixels, reference, target, plan, 0.5f, next, shadows);
        for (const auto& m : out->mends) EXPECT_NE(m.mend.method, mend::Method::Unshade);
        return out->carried.at(0).verdict;
    };
    const carry::Shadows known{{7, learnt()}};
    EXPECT_EQ(verdictOn(dimmed(clean(1), lightAt(11)), known), series::Verdict::Mended);
    EXPECT_EQ(verdictOn(clean(1), known), series::Verdict::NotVisible);
    const Image grass = dimmed(testkit::grass(kSize, 31), lightAt(11, 0.15f));
    EXPECT_EQ(verdictOn(grass, {}), series::Verdict::NotVisible) << "lost in it by itself";
    EXPECT_NE(verdictOn(grass, known), series::Verdict::NotVisible);
}

TEST(Shadows, NeedThreeFrames) {
    EXPECT_TRUE(solvedFrom(2).empty());
    EXPECT_FALSE(solvedFrom(3).empty());
}

TEST(Shadows, OfNeighboursAreNotDividedOutTwice) {
    ShadowSeries series({place(), disc(PointF(kGrain) + PointF(14, 0), 6, kSize)});
    for (std::uint32_t i = 1; i <= 6; ++i)
        series.add(dimmed(testkit::sky(kSize, i), lightAt(16)), frameAt(16));
    const auto both = *series.solved();
    ImageF sum = ImageF::zeros(kSize, CV_32F);
    for (const auto& s : both) {
        const Rect in = s.box & Rect({0, 0}, kSize);
        sum(in) += s.held(in - s.box.tl());
    }
    EXPECT_LT(cv::norm(sum, ImageF(1 - lightAt(16)), cv::NORM_INF), 0.03);
}

TEST(Shadows, ComeBackFromAChartsFile) {
    testkit::Scratch dir;
    DustChart chart;
    chart.camera = "camera";
    chart.sensor = kSize;
    chart.frames = 9;
    chart.spots = {{place(), 0.2f, 9, 8, learnt()}};
    chart.spots[0].shadow.witnesses = {{"2026:06:01 10:00:00", 3.5}, {"", -1}};
    ASSERT_TRUE(files::writeTextSafely(dir / "c.json", chartText(chart)));
    const auto back = loadChart(dir / "c.json");
    ASSERT_TRUE(back) << back.error().message();
    const auto& was = chart.spots[0].shadow;
    const auto& is = back->spots[0].shadow;
    EXPECT_EQ(is.box, was.box);
    EXPECT_EQ(is.aperture, was.aperture);
    EXPECT_LT(cv::norm(is.held, was.held, cv::NORM_INF), 1e-4);
    EXPECT_LT(cv::norm(is.doubt, was.doubt, cv::NORM_INF), 1e-4);
    ASSERT_EQ(is.witnesses.size(), 2u);
    EXPECT_EQ(is.witnesses[0].taken, "2026:06:01 10:00:00");
    EXPECT_EQ(is.witnesses[0].told, 3.5);
}

}  // namespace
}  // namespace gq::carry
