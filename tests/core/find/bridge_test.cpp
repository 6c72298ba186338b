#include "core/find/bridge.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/find/find.h"
#include "sim/wear.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(300, 240);
const std::vector<PointF> kCourse{{40, 60}, {90, 84}, {120, 80}, {180, 130}, {240, 140}};

/// A thin light crack, as fine as it takes to be found in crumbs.
Image cracked(const Image& on, const std::vector<PointF>& course) {
    Image out = on.clone();
    out.setTo(cv::Scalar::all(60000), Mask([&] {
                  Mask mask(on.size(), CV_8U, cv::Scalar(0));
                  paint(mask, stroke(course, 2, on.size()));
                  return mask;
              }()));
    return out;
}

Finding crumbAt(PointF from, PointF to, float confidence = 0.9f,
                Polarity polarity = Polarity::Light) {
    Finding f;
    f.kind = Kind::Speck;
    f.polarity = polarity;
    f.confidence = confidence;
    f.region = stroke({from, to}, 2, kSize);
    f.measures.length = float(cv::norm(to - from)) + 2;
    f.measures.width = 2;
    f.measures.size = 4;
    return f;
}

/// Pieces of the course, 7 px long, with gaps of 6 px.
std::vector<Finding> crumbs() {
    std::vector<Finding> out;
    for (size_t i = 1; i < kCourse.size(); ++i) {
        const PointF way = kCourse[i] - kCourse[i - 1];
        const auto length = float(cv::norm(way));
        const PointF along = way / length;
        for (float at = 1; at + 7 < length; at += 13)
            out.push_back(crumbAt(kCourse[i - 1] + along * at, kCourse[i - 1] + along * (at + 7)));
    }
    return out;
}

TEST(Bridged, CrumbsOfACrackBecomeOneThatCoversItsGaps) {
    const auto one = bridged(crumbs(), cracked(testkit::sky(kSize), kCourse), Origin::Print);
    ASSERT_EQ(one.size(), 1u);
    EXPECT_EQ(one[0].kind, Kind::Crack);
    EXPECT_GT(one[0].measures.length, 80);
    const Region whole = stroke(kCourse, 2, kSize);
    EXPECT_LT(without(whole, grown(one[0].region, 1, kSize)).area(), 0.15 * whole.area())
        << "the gaps too, but for the two ends";
    EXPECT_LT(without(one[0].region, grown(whole, 2, kSize)).area(), 0.05 * whole.area());
}

TEST(Bridged, ALongUnsureLineIsNoBranchOfTheCrackItTouchesOnAPrint) {
    const PointF top(60, 40), middle(60, 120), far(220, 124);
    const Image picture = cracked(testkit::sky(kSize), {top, middle, far});
    const auto pieces = [&](float confidence) {
        return bridged({crumbAt(top, middle), crumbAt(middle + PointF(3, 0), far, confidence)},
                       picture, Origin::Print)
            .size();
    };
    EXPECT_EQ(pieces(0.8f), 1u);
    EXPECT_EQ(pieces(0.3f), 2u);
}

TEST(Bridged, SpecksWithoutALineBetweenThemStayApart) {
    const auto alone = crumbs();
    EXPECT_EQ(bridged(alone, testkit::sky(kSize), Origin::Print).size(), alone.size());
    EXPECT_EQ(bridged(alone, testkit::grass(kSize), Origin::Print).size(), alone.size())
        << "nor do blades of grass make one";
}

TEST(Bridged, OnlyWhatIsSureEnoughAndOfOneToneIsPutTogether) {
    const Image picture = cracked(testkit::sky(kSize), {{40, 60}, {90, 60}});
    const auto with = [&](const Finding& second) {
        return bridged({crumbAt({50, 60}, {57, 60}), second}, picture, Origin::Print).size();
    };
    EXPECT_EQ(with(crumbAt({66, 60}, {73, 60})), 1u);
    EXPECT_EQ(with(crumbAt({66, 60}, {73, 60}, 0.3f)), 1u) << "a sure one speaks for its like";
    EXPECT_EQ(with(crumbAt({66, 60}, {73, 60}, 0.1f)), 2u);
    EXPECT_EQ(with(crumbAt({66, 60}, {73, 60}, 0.9f, Polarity::Dark)), 2u);
    EXPECT_EQ(with(crumbAt({78, 60}, {85, 60})), 2u) << "too far";
    Finding stain = crumbAt({66, 60}, {73, 60});
    stain.kind = Kind::Stain;
    EXPECT_EQ(with(stain), 2u);
    EXPECT_TRUE(bridged({}, picture, Origin::Print).empty());
}

TEST(Bridged, OnFilmTwoLongLinesThatMeetStayTwo) {
    const std::vector<PointF> across{{40, 100}, {140, 100}}, down{{90, 100}, {90, 200}};
    const Image picture = cracked(cracked(testkit::sky(kSize), across), down);
    const std::vector<Finding> lines{crumbAt(across[0], across[1]), crumbAt({90, 104}, down[1])};
    EXPECT_EQ(bridged(lines, picture, Origin::Negative).size(), 2u);
    EXPECT_EQ(bridged(lines, picture, Origin::Print).size(), 1u) << "branches of one crack";
}

TEST(Find, ACrackWithItsBranchesIsFewFindings) {
    int cracks = 0, pieces = 0;
    for (const std::uint32_t seed : {1u, 2u, 3u}) {
        const auto worn = sim::wear(testkit::sky({1400, 1000}, seed) * 0.4,
                                    {.medium = sim::Medium::Print, .seed = seed, .amount = 2});
        Mask cracked(worn.worn.size(), CV_8U, cv::Scalar(0));
        for (const auto& piece : worn.pieces)
            if (piece.kind == sim::WearKind::Crack)
                paint(cracked, {piece.cover.box, Mask(piece.cover.share > 0.3f)});
        const auto found = find({worn.worn, 16}, FindPlan{.origin = Origin::Print});
        ASSERT_TRUE(found);
        for (const auto& crack : gq::pieces(cracked)) {
            const auto on = std::count_if(found->begin(), found->end(), [&](const Finding& f) {
                return f.confidence >= 0.5f && meets(f.region, crack);
            });
            cracks += on > 0 && crack.area() > 200;
            pieces += crack.area() > 200 ? int(on) : 0;
        }
    }
    ASSERT_GE(cracks, 8);
    EXPECT_LE(pieces, 2 * cracks) << "in " << cracks << " cracks";
}

}  // namespace
}  // namespace gq::find
