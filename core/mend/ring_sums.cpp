#include "core/mend/ring_sums.h"

namespace gq::mend {
namespace {

using Vec8 = float __attribute__((vector_size(32)));

/// What a sample holds, for both sources. (Returned, its way would depend on the processor.)
[[gnu::always_inline]] inline void forBoth(const Vec4& v, Vec8& out) {
    out = __builtin_shufflevector(v, v, 0, 1, 2, 3, 0, 1, 2, 3);
}

[[gnu::always_inline]] inline void add(const std::vector<RingSample>& ring, const Vec4* pixels,
                                       const int (&shifts)[2], RingSums (&sums)[2]) {
    const int first = shifts[0], second = shifts[1];
    Vec8 sum{}, across{}, down{}, square{};
    for (const RingSample& s : ring) {
        Vec8 target, weight, x, y;
        forBoth(s.target, target);
        forBoth(s.weight, weight);
        forBoth(s.across, x);
        forBoth(s.down, y);
        const Vec8 there = __builtin_shufflevector(
            pixels[s.index + first], pixels[s.index + second], 0, 1, 2, 3, 4, 5, 6, 7);
        const Vec8 d = there - target, wd = weight * d;
        sum += wd;
        square += wd * d;
        across += x * d;
        down += y * d;
    }
    const auto split = [&](const Vec8& v, Vec4 RingSums::*part) {
        sums[0].*part = __builtin_shufflevector(v, v, 0, 1, 2, 3);
        sums[1].*part = __builtin_shufflevector(v, v, 4, 5, 6, 7);
    };
    split(sum, &RingSums::sum);
    split(across, &RingSums::across);
    split(down, &RingSums::down);
    split(square, &RingSums::square);
}

[[gnu::target("avx2")]] void addEight(const std::vector<RingSample>& ring, const Vec4* pixels,
                                      const int (&shifts)[2], RingSums (&sums)[2]) {
    add(ring, pixels, shifts, sums);
}

}  // namespace

void addUp(const std::vector<RingSample>& ring, const Vec4* pixels, const int (&shifts)[2],
           RingSums (&sums)[2]) {
    static const bool eight = __builtin_cpu_supports("avx2") != 0;
    eight ? addEight(ring, pixels, shifts, sums) : add(ring, pixels, shifts, sums);
}

}  // namespace gq::mend
