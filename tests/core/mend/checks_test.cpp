// What a look at a finished mend, or at an outline, says.
#include "core/mend/checks.h"

#include <gtest/gtest.h>

#include <opencv2/core.hpp>

#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

const Size kSize(400, 300);

TEST(Checks, SayWhatAnOutlineLeavesOutside) {
    const Image worn = testkit::specked(testkit::sky(kSize), {{{200, 150}, 12, 0.8f}});
    EXPECT_FALSE(leftOutside(worn, disc({194, 150}, 8, kSize)).empty());
    EXPECT_TRUE(leftOutside(worn, disc({200, 150}, 22, kSize)).empty());
}

TEST(Checks, SeeASeamAndARepeat) {
    const Image clean = testkit::grass(kSize);
    Mend m;
    m.region = disc({150, 150}, 20, kSize);
    m.method = Method::Clone;
    m.source = Point(60, 0);
    const auto patch = makePatch({clean, {}}, m);
    ASSERT_TRUE(patch);
    Image out = clean.clone();
    lay(*patch, out);
    EXPECT_TRUE(checked(out, m, *patch).repeats());
    m.method = Method::TouchIn;
    m.softness = 0;
    m.tone = {1, 1, 1};
    const auto flat = makePatch({clean, {}}, m);
    ASSERT_TRUE(flat);
    out = clean.clone();
    lay(*flat, out);
    EXPECT_TRUE(checked(out, m, *flat).seamShows());
    EXPECT_FALSE(checked(out, m, *flat).repeats());
}

TEST(Checks, SayThatTwoMendsInSightTookTheSame) {
    const Image clean = testkit::grass(kSize);
    Mend first, second;
    first.region = disc({110, 220}, 14, kSize);
    first.source = Point(230, -150);
    second.region = disc({170, 200}, 14, kSize);
    second.source = *first.source + Point(110 - 170, 220 - 200);
    Image out = clean.clone();
    lay(*makePatch({clean, {}}, second), out);
    const auto patch = makePatch({out, {}}, first);
    ASSERT_TRUE(patch);
    Image alone = clean.clone();
    lay(*patch, alone);
    EXPECT_FALSE(checked(alone, first, *patch).repeats()) << "its source is out of sight";
    lay(*patch, out);
    EXPECT_TRUE(checked(out, first, *patch).repeats());
}

TEST(Checks, TakeNoRepeatForOneWhereAllIsAlike) {
    Image tiles;
    cv::repeat(testkit::grass({20, 20}), 15, 20, tiles);
    Mend m;
    m.region = disc({150, 150}, 20, tiles.size());
    m.method = Method::Clone;
    m.source = Point(60, 0);
    const auto patch = makePatch({tiles, {}}, m);
    ASSERT_TRUE(patch);
    lay(*patch, tiles);
    EXPECT_FALSE(checked(tiles, m, *patch).repeats());
}

TEST(Checks, SplitAMendWhereTwoMaterialsMeet) {
    Image two = testkit::sky(kSize);
    two(Rect(0, 150, 400, 150)).setTo(cv::Scalar(9000, 12000, 8000));
    const auto parts = splitByMaterial(two, stroke({{200, 120}, {200, 180}}, 6, kSize));
    ASSERT_TRUE(parts);
    const auto& [a, b] = *parts;
    EXPECT_NEAR(std::max(a.box.y, b.box.y), 150, 4) << "the cut lies at the boundary";
    EXPECT_FALSE(splitByMaterial(testkit::sky(kSize), stroke({{200, 120}, {200, 180}}, 6, kSize)));
}

}  // namespace
}  // namespace gq::mend
