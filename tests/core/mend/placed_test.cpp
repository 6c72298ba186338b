#include "core/mend/placed.h"

#include <gtest/gtest.h>

#include "core/mend/grain.h"
#include "core/pixels/hash_noise.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

const Size kSize(160, 120);
const Rect kWhole({0, 0}, kSize);

Window windowOn(const Image& pixels) {
    return {pixels, kWhole, {}, {}};
}

TEST(Placement, IsThePlaceMovedWhenNothingIsTurned) {
    const Placement plain({50, 40}, {20, -7}, {});
    EXPECT_EQ(plain.at({12, 30}), PointF(32, 23));
    EXPECT_EQ(plain.sourceOf(Rect(40, 30, 10, 8)), Rect(60, 23, 10, 8));
    const Image grass = testkit::grass(kSize);
    const Window w = windowOn(grass);
    const Vec4 v = plain.sample(w, {55, 44});
    for (int c = 0; c < 3; ++c) EXPECT_EQ(v[c], w.at(75, 37)[c]) << "to the bit";
}

TEST(Placement, TurnsAndEnlargesAboutTheMiddle) {
    const PointF middle(80, 60);
    const Placement quarter(middle, {0, 0}, {.degrees = 90});
    const PointF p = quarter.at({90, 60});
    EXPECT_NEAR(cv::norm(p - middle), 10, 1e-3);
    EXPECT_NEAR(p.x, 80, 1e-3) << "a quarter turn leads up or down";
    const Placement larger(middle, {0, 0}, {.scale = 1.25f});
    EXPECT_NEAR(cv::norm(larger.at({90, 60}) - middle), 8, 1e-3) << "it shows less of the source";
    const Placement mirrored(middle, {0, 0}, {.mirrored = true});
    EXPECT_EQ(mirrored.at({90, 55}), PointF(70, 55));
}

TEST(Placement, SourceBoxHoldsAllThatIsRead) {
    const Placement turned({80, 60}, {15, 5}, {.degrees = 33, .scale = 0.8f, .mirrored = true});
    const Rect place(70, 52, 20, 16), box = turned.sourceOf(place);
    for (const Point& corner : {place.tl(), place.br() - Point(1, 1)}) {
        const PointF p = turned.at(PointF(corner));
        EXPECT_TRUE(box.contains({int(std::floor(p.x)), int(std::floor(p.y))}));
    }
}

TEST(FillFrom, TakesExactPixelsOrMovesThemToTheTone) {
    const Image sky = testkit::sky(kSize);
    std::vector<Point> hole;
    for (int y = 50; y < 62; ++y)
        for (int x = 60; x < 74; ++x) hole.emplace_back(x, y);
    Window copied = windowOn(sky), toned = windowOn(sky);
    // A source that is brighter than the place by a tenth.
    const auto brighter = [&](const Point& p) { return copied.at(p.x + 30, p.y) + splat(0.1f); };
    std::vector<Vec4> source;
    for (const Point& p : hole) source.push_back(brighter(p));
    fillFrom(copied, hole, brighter, false);
    const float misfit = fillFrom(toned, hole, brighter, true);
    double exact = 0, off = 0;
    for (size_t i = 0; i < hole.size(); ++i) {
        exact =
            std::max<double>(exact, std::abs(copied.at(hole[i].x, hole[i].y)[1] - source[i][1]));
        off += double(toned.at(hole[i].x, hole[i].y)[1] - source[i][1]) / double(hole.size());
    }
    EXPECT_LT(exact, 1e-6);
    EXPECT_NEAR(off, -0.1, 0.02) << "the step is taken out";
    EXPECT_NEAR(misfit, 0.1, 0.03);
}

double energy(const std::vector<Vec4>& values) {
    double sum = 0;
    for (const Vec4& v : values) sum += double(lumaOf(v) * lumaOf(v));
    return sum / double(values.size());
}

class Grain : public testing::TestWithParam<float> {};
INSTANTIATE_TEST_SUITE_P(Shares, Grain, testing::Values(0.0f, 0.5f, 1.0f));

TEST_P(Grain, IsPutBackToItsShareOfTheSurroundings) {
    const float share = GetParam();
    const Image grainy = testkit::grass(kSize, 8);
    std::vector<Point> piece;
    for (int y = 50; y < 74; ++y)
        for (int x = 60; x < 84; ++x) piece.emplace_back(x, y);
    const Window w(grainy, kWhole, {Rect(60, 50, 24, 24), Mask(24, 24, CV_8U, cv::Scalar(255))},
                   {});
    std::vector<Vec4> best, flat(piece.size(), splat(0.4f));
    for (const Point& p : piece) best.push_back(w.at(p.x + 40, p.y - 10));
    putGrainBack(w, piece, best, share, flat);
    const double around = w.detail(Rect(50, 40, 44, 44)),
                 inside = energy(fineDetail(w, piece, flat));
    ASSERT_GT(around, 0);
    EXPECT_NEAR(std::sqrt(inside / around), double(share), 0.25);
}

}  // namespace
}  // namespace gq::mend
