#include "core/mend/membrane.h"

#include <gtest/gtest.h>

#include "core/pixels/hash_noise.h"

namespace gq::mend {
namespace {

/// The outline of a square of `side` px and the pixels inside it.
struct Square {
    explicit Square(int side) {
        for (int i = 0; i < side; ++i) rim.emplace_back(i, 0);
        for (int i = 0; i < side; ++i) rim.emplace_back(side, i);
        for (int i = side; i > 0; --i) rim.emplace_back(i, side);
        for (int i = side; i > 0; --i) rim.emplace_back(0, i);
        for (int y = 1; y < side; ++y)
            for (int x = 1; x < side; ++x) inside.emplace_back(x, y);
    }
    std::vector<Point> rim, inside;
};

TEST(Membrane, IsFlatThroughAFlatRimAndNeverBeyondIt) {
    const Square square(30);
    const Membrane membrane(square.rim, square.inside);
    std::vector<Vec4> flat(membrane.rim().size(), splat(0.25f)), rough;
    for (size_t i = 0; i < membrane.rim().size(); ++i)
        rough.push_back(splat(hashUniform(1, int(i), 0)));
    for (const Vec4& v : membrane.spread(flat)) ASSERT_NEAR(v[0], 0.25f, 1e-5);
    for (const Vec4& v : membrane.spread(rough)) {
        ASSERT_GE(v[1], 0);
        ASSERT_LE(v[1], 1);
    }
}

TEST(Membrane, ComesNearTheRimItIsCloseTo) {
    const Square square(40);
    const Membrane membrane(square.rim, square.inside);
    std::vector<Vec4> ramp;
    for (const Point& p : membrane.rim()) ramp.push_back(splat(float(p.x) / 40));
    const auto sheet = membrane.spread(ramp);
    for (size_t i = 0; i < sheet.size(); ++i)
        ASSERT_NEAR(sheet[i][2], float(square.inside[i].x) / 40, 0.12f);
}

TEST(Membrane, IsTheSameForALargePieceAndForItsPixelsOneByOne) {
    const Square square(120);  // large enough to be worked out in bands
    const Membrane whole(square.rim, square.inside);
    std::vector<Vec4> values;
    for (size_t i = 0; i < whole.rim().size(); ++i)
        values.push_back(splat(hashUniform(2, int(i), 0)));
    const auto sheet = whole.spread(values);
    ASSERT_EQ(sheet.size(), square.inside.size());
    for (size_t i = 0; i < sheet.size(); i += 997) {
        const Membrane one(square.rim, {square.inside[i]});
        EXPECT_EQ(one.spread(values)[0][0], sheet[i][0]);
    }
}

TEST(Winsorise, DrawsInWhatStandsOut) {
    std::vector<Vec4> values;
    for (int i = 0; i < 20; ++i) values.push_back(splat(0.1f + 0.001f * float(i)));
    values[7] = splat(0.9f);
    winsorise(values);
    EXPECT_LT(values[7][0], 0.15f);
    EXPECT_FLOAT_EQ(values[3][0], 0.103f);
}

}  // namespace
}  // namespace gq::mend
