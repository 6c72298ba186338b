#include "core/mend/ring_sums.h"

#include <gtest/gtest.h>

#include <random>

namespace gq::mend {
namespace {

constexpr int kPixels = 400;

class RingSumsTest : public testing::Test {
  protected:
    RingSumsTest() {
        for (auto& p : pixels) p = any();
        for (int i = 0; i < 37; ++i) ring.push_back({any(), any(), any(), any(), 150 + 3 * i % 90});
    }
    Vec4 any() { return Vec4{unit(dice), unit(dice), unit(dice), unit(dice)}; }

    [[nodiscard]] RingSums plain(int shift) const {
        RingSums out;
        for (const auto& s : ring) {
            const Vec4 d = pixels[size_t(s.index + shift)] - s.target;
            out.sum += s.weight * d;
            out.square += s.weight * d * d;
            out.across += s.across * d;
            out.down += s.down * d;
        }
        return out;
    }

    std::mt19937 dice{5};
    std::uniform_real_distribution<float> unit{0, 1};
    std::vector<Vec4> pixels = std::vector<Vec4>(kPixels);
    std::vector<RingSample> ring;
};

TEST_F(RingSumsTest, OfTwoSourcesAreEachOnesOwnToTheBit) {
    for (const auto& [first, second] : {std::pair(0, 7), {-40, 133}, {5, 5}}) {
        RingSums pair[2];
        addUp(ring, pixels.data(), {first, second}, pair);
        for (const auto& [got, shift] : {std::pair(pair[0], first), {pair[1], second}}) {
            const RingSums want = plain(shift);
            for (Vec4 RingSums::*part :
                 {&RingSums::sum, &RingSums::across, &RingSums::down, &RingSums::square})
                for (int lane = 0; lane < 4; ++lane)
                    EXPECT_EQ((got.*part)[lane], (want.*part)[lane]) << shift;
        }
    }
}

}  // namespace
}  // namespace gq::mend
