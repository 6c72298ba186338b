#include "core/render/remnant.h"

#include <gtest/gtest.h>

#include "core/render/compose.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

const Size kSize(700, 500);
const testkit::Spot kSpot{{350, 250}, 14, 0.25f};

class Remnants : public testing::Test {
  protected:
    void mend(const Region& region) { frame.mends = {{1, {region}, 0, false, {}}}; }
    size_t left() const {
        const Image worn = testkit::dusty(testkit::sky(kSize), {kSpot});
        Composer composer;
        const auto all = composer.compose(worn, frame, 0.5f);
        EXPECT_TRUE(all);
        const auto out = remnants(all->picture, 16, frame, frame.mends.front(), {});
        EXPECT_TRUE(out);
        return out->size();
    }
    series::Frame frame = testkit::frameOf("f", kSize);
    const Region whole = disc(kSpot.at, 22, kSize),
                 half = disc(kSpot.at - PointF(14, 0), 12, kSize);
};

TEST_F(Remnants, AreWhatIsLeftBesideAMendThatTookTooLittle) {
    mend(half);
    EXPECT_EQ(left(), 1u);
    mend(whole);
    EXPECT_EQ(left(), 0u);
}

TEST_F(Remnants, AreNotWhatIsListedBesideItAlready) {
    mend(half);
    find::Finding listed;
    listed.region = disc(kSpot.at + PointF(12, 0), 8, kSize);
    frame.findings.push_back({7, listed, true, false});
    EXPECT_EQ(left(), 0u);
}

}  // namespace
}  // namespace gq::render
