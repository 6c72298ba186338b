#include "core/find/infrared_find.h"

#include <gtest/gtest.h>

namespace gq::find {
namespace {

const Size kSize(500, 400);

/// What infrared tells of a clear film: a little noise, and light held back at `places`.
Infrared evidenceOf(const std::vector<Region>& places, float depth) {
    Infrared out{ImageF::zeros(kSize, CV_32F), ImageF(kSize, CV_32F, cv::Scalar(0.01))};
    for (const auto& r : places) out.depth(r.box).setTo(depth, r.mask);
    return out;
}

TEST(InfraredFindings, HaveTheShapeOfTheDustItself) {
    const Region speck = disc({100, 120}, 6, kSize),
                 hair = stroke({{250, 80}, {300, 140}, {380, 140}}, 4, kSize);
    const auto found =
        infraredFindings(evidenceOf({speck, hair}, 0.6f), Origin::Negative, Polarity::Light);
    ASSERT_EQ(found.size(), 2u);
    for (const auto& f : found) EXPECT_GT(f.confidence, 0.9f);
    const auto& [line, dot] =
        found[0].measures.length > 60 ? std::tie(found[0], found[1]) : std::tie(found[1], found[0]);
    EXPECT_EQ(dot.kind, Kind::Speck);
    EXPECT_EQ(dot.region.area(), speck.area());
    EXPECT_NEAR(dot.measures.size, 12, 1.5);
    EXPECT_EQ(line.kind, Kind::Fibre);
    EXPECT_NEAR(line.measures.length, 158, 20);
    EXPECT_NEAR(line.measures.width, 4, 1.5);
}

TEST(InfraredFindings, AreNotMadeOfNoise) {
    EXPECT_TRUE(infraredFindings(evidenceOf({disc({100, 120}, 6, kSize)}, 0.03f), Origin::Negative,
                                 Polarity::Light)
                    .empty());
}

TEST(Confirm, DoubtsWhatShowsInThePictureAlone) {
    const Region both = disc({100, 120}, 6, kSize), alone = disc({300, 250}, 6, kSize),
                 line = stroke({{20, 300}, {480, 300}}, 3, kSize);
    std::vector<Finding> findings(3);
    findings[0].region = both;
    findings[1].region = alone;
    findings[2].region = line;
    findings[2].kind = Kind::Scratch;
    findings[2].measures.length = 460;
    for (auto& f : findings) f.confidence = 0.8f;
    confirm(findings, evidenceOf({both}, 0.5f));
    EXPECT_FLOAT_EQ(findings[0].confidence, 0.8f);
    EXPECT_LT(findings[1].confidence, 0.2f);
    EXPECT_NEAR(findings[2].confidence, 0.4f, 0.01) << "a scratch in the emulation passes infrared";
}

}  // namespace
}  // namespace gq::find
