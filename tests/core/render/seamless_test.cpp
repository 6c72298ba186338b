#include "core/render/seamless.h"

#include <gtest/gtest.h>

#include "core/mend/checks.h"
#include "core/mend/patch.h"
#include "tests/testkit/pictures.h"

namespace gq::render {
namespace {

const Size kSize(400, 300);

mend::Checks seen(const Image& pixels, const mend::Mend& m) {
    const auto patch = mend::makePatch({pixels, {}}, m);
    Image laid = pixels.clone();
    mend::lay(*patch, laid);
    return mend::checked(laid, m, *patch);
}

mend::Mend spot(PointF at) {
    mend::Mend m;
    m.region = disc(at, 14, kSize);
    m.softness = 0;
    return m;
}

TEST(Seamless, LeavesAMendAloneWhoseEdgeIsNotSeen) {
    const Image sky = testkit::sky(kSize);
    const auto m = spot({200, 150});
    ASSERT_LE(seen(sky, m).shown(), 1);
    EXPECT_EQ(mend::contentKey(seamless(sky, {}, m)), mend::contentKey(m));
}

TEST(Seamless, NeverMakesAMendMoreSeenAndMendsThoseThatAre) {
    // Grass beside sky: sources near the border leave steps.
    Image both = testkit::sky(kSize);
    testkit::grass(kSize)(Rect(200, 0, 200, 300)).copyTo(both(Rect(200, 0, 200, 300)));
    int shown = 0, settled = 0;
    for (int y = 40; y <= 260; y += 20) {
        const auto m = spot({200, float(y)});
        const auto before = seen(both, m).shown(),
                   after = seen(both, seamless(both, {}, m)).shown();
        EXPECT_LE(after, before + 1e-4f);
        shown += before > 1;
        settled += before > 1 && after <= 1;
    }
    EXPECT_GE(settled * 2, shown) << settled << " of " << shown;
}

TEST(Seamless, KeepsASourceThatWasPlaced) {
    const Image grass = testkit::grass(kSize);
    auto m = spot({200, 150});
    m.source = Point(60, 0);
    EXPECT_EQ(mend::contentKey(seamless(grass, {}, m)), mend::contentKey(m));
}

TEST(AnotherResult, IsOneThatIsNotTwiceInSight) {
    const Image grass = testkit::grass({900, 400});
    auto m = spot({200, 150});
    m.method = mend::Method::Clone;
    m.source = Point(60, 0);
    const auto next = anotherResult(Composition(grass), {}, m);
    EXPECT_FALSE(next.source);
    EXPECT_TRUE(seen(grass, m).repeats());
    EXPECT_FALSE(seen(grass, next).repeats());
    EXPECT_LE(seen(grass, next).seam, seen(grass, m).seam + 0.2f);
}

TEST(AnotherResult, OfAMethodWithoutASourceIsTheVeryNext) {
    auto m = spot({200, 150});
    m.method = mend::Method::Rebuild;
    m.candidate = 2;
    EXPECT_EQ(anotherResult(Composition(testkit::grass(kSize)), {}, m).candidate, 3);
}

}  // namespace
}  // namespace gq::render
