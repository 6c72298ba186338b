#include "core/find/folds.h"

#include <gtest/gtest.h>

namespace gq::find {
namespace {

const Size kSize(600, 400);

Finding line(PointF from, PointF to, Polarity polarity, float confidence) {
    Finding f;
    f.region = stroke({from, to}, 3, kSize);
    f.kind = Kind::Crack;
    f.polarity = polarity;
    f.confidence = confidence;
    f.measures.length = float(cv::norm(to - from));
    f.measures.width = 3;
    return f;
}

const Finding kLight = line({50, 100}, {550, 140}, Polarity::Light, 0.9f);

TEST(Folds, TheirLightAndTheirDarkSideAreOneFindingWithWhatLiesBetween) {
    const auto dark = line({120, 112}, {540, 145}, Polarity::Dark, 0.7f);
    const auto all = foldsJoined({dark, kLight}, kSize);
    ASSERT_EQ(all.size(), 1u);
    EXPECT_FLOAT_EQ(all[0].confidence, 0.9f);
    EXPECT_EQ(all[0].polarity, Polarity::Light);
    for (const Finding* side : {&dark, &kLight})
        EXPECT_EQ(without(side->region, all[0].region).area(), 0);
    EXPECT_TRUE(all[0].region.contains({300, 123})) << "between them";
    EXPECT_FALSE(all[0].region.contains({300, 112}));
}

TEST(Folds, OtherLinesStayApart) {
    for (const auto& other : {line({120, 112}, {540, 145}, Polarity::Light, 0.7f),
                              line({50, 120}, {550, 160}, Polarity::Dark, 0.7f),
                              line({300, 20}, {320, 380}, Polarity::Dark, 0.7f),
                              line({300, 125}, {330, 128}, Polarity::Dark, 0.7f)})
        EXPECT_EQ(foldsJoined({kLight, other}, kSize).size(), 2u) << other.region.box;
}

}  // namespace
}  // namespace gq::find
