#include "core/render/seamless.h"

#include <gtest/gtest.h>

#include "core/mend/checks.h"
#include "core/mend/patch.h"
#include "tests/testkit/pictures.h"

namespace gq::render {
namespace {

const Size kSize(400, 300);

float seamOf(const Image& pixels, const mend::Mend& m) {
    const auto patch = mend::makePatch({pixels, {}}, m);
    Image laid = pixels.clone();
    mend::lay(*patch, laid);
    return mend::checked(laid, m, *patch).seam;
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
    ASSERT_FALSE((mend::Checks{seamOf(sky, m), 0}.seamShows()));
    EXPECT_EQ(mend::contentKey(seamless(sky, {}, m)), mend::contentKey(m));
}

TEST(Seamless, NeverMakesAnEdgeMoreSeenAndMendsThoseThatAre) {
    // Grass beside sky: sources near the border leave steps.
    Image both = testkit::sky(kSize);
    testkit::grass(kSize)(Rect(200, 0, 200, 300)).copyTo(both(Rect(200, 0, 200, 300)));
    int shown = 0, settled = 0;
    for (int y = 40; y <= 260; y += 20) {
        const auto m = spot({200, float(y)});
        const float before = seamOf(both, m), after = seamOf(both, seamless(both, {}, m));
        EXPECT_LE(after, before + 1e-4f);
        shown += mend::Checks{before, 0}.seamShows();
        settled += mend::Checks{before, 0}.seamShows() && !mend::Checks{after, 0}.seamShows();
    }
    EXPECT_GE(settled * 2, shown) << settled << " of " << shown;
}

TEST(Seamless, KeepsASourceThatWasPlaced) {
    const Image grass = testkit::grass(kSize);
    auto m = spot({200, 150});
    m.source = Point(60, 0);
    EXPECT_EQ(mend::contentKey(seamless(grass, {}, m)), mend::contentKey(m));
}

}  // namespace
}  // namespace gq::render
