#include "tools/accuracy/score.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"

namespace gq::accuracy {
namespace {

const Size kSize(600, 120);

/// One light scratch across a sky, 512 px long and 3 wide, and a speck.
sim::Worn scratched(int lighter) {
    sim::Worn out;
    out.clean = testkit::sky(kSize) * 0.5;
    out.worn = out.clean.clone();
    const auto lay = [&](sim::WearKind kind, const Rect& box) {
        out.worn(box) += cv::Scalar::all(lighter);
        out.pieces.push_back({kind, {box, ImageF(box.size(), CV_32F, cv::Scalar(1))}, 1});
    };
    lay(sim::WearKind::Scratch, {40, 40, 512, 3});
    lay(sim::WearKind::Speck, {300, 90, 5, 5});
    return out;
}

find::Finding finding(const Rect& box, float confidence = 0.9f) {
    find::Finding f;
    f.region = {box, Mask(box.size(), CV_8U, cv::Scalar(255))};
    f.confidence = confidence;
    return f;
}

TEST(Score, OfALineCountsItsPiecesAndItsLength) {
    const auto worn = scratched(20000);
    const auto s = score({finding({40, 40, 254, 3})}, 0.5f, worn);
    EXPECT_EQ(s.kinds.at(sim::WearKind::Scratch).asked, 4) << "of 128 px";
    EXPECT_EQ(s.kinds.at(sim::WearKind::Scratch).found, 2);
    EXPECT_EQ(s.kinds.at(sim::WearKind::Speck).found, 0);
    EXPECT_NEAR(s.lineShare(), 0.5, 0.01);
    EXPECT_EQ(s.wrong, 0);
    EXPECT_NEAR(s.recall(), 2.0 / 5, 1e-9);
    EXPECT_EQ(score({}, 0.5f, worn).lineShare(), 0);
}

TEST(Score, OfFindingsCountsThoseAboveTheLineThatLieOnNoWear) {
    const auto worn = scratched(20000);
    const auto s =
        score({finding({300, 90, 5, 5}), finding({80, 8, 9, 9}), finding({8, 8, 9, 9}, 0.4f)}, 0.5f,
              worn);
    EXPECT_EQ(s.findings, 2);
    EXPECT_EQ(s.wrong, 1);
    EXPECT_NEAR(s.precision(), 0.5, 1e-9);
    EXPECT_EQ(s.kinds.at(sim::WearKind::Speck).found, 1);
    EXPECT_NEAR(s.wrongPerMegapixel(), 1 / 0.072, 0.01);
}

TEST(Score, DoesNotAskForWhatNobodyCanSee) {
    const auto s = score({}, 0.5f, scratched(300));
    EXPECT_EQ(s.all().asked, 0);
    EXPECT_EQ(s.recall(), 1);
    EXPECT_EQ(s.lineShare(), 1);
    Score sum = s;
    sum.add(score({finding({40, 40, 512, 3})}, 0.5f, scratched(20000)));
    EXPECT_EQ(sum.all().asked, 5);
    EXPECT_NEAR(sum.lineShare(), 1, 0.01);
}

}  // namespace
}  // namespace gq::accuracy
