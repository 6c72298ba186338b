#include "core/pixels/hash_noise.h"

namespace gq {
namespace {

float fade(float t) {
    return t * t * t * (t * (t * 6.0f - 15.0f) + 10.0f);
}

/// A lighter mix than hash32, enough for gradients (lowbias32, C. Wellons 2018).
inline std::uint32_t mix(std::uint32_t h) {
    h = (h ^ (h >> 16)) * 0x7FEB352Du;
    h = (h ^ (h >> 15)) * 0x846CA68Bu;
    return h ^ (h >> 16);
}

inline float corner(std::uint32_t row, int xi, float dx, float dy) {
    const std::uint32_t h = mix(row + std::uint32_t(xi) * 0x9E3779B1u);
    const float gx = float(int(h & 0xFFFF) - 32768), gy = float(int(h >> 16) - 32768);
    return (gx * dx + gy * dy) * (1.0f / 32768.0f);
}

/// Rounds down without a library call.
inline int floorInt(float v) {
    const int i = int(v);
    return i - (float(i) > v);
}

}  // namespace

float gradientNoise(std::uint32_t seed, float x, float y) {
    const int xi = floorInt(x), yi = floorInt(y);
    const float dx = x - float(xi), dy = y - float(yi), u = fade(dx), v = fade(dy);
    const std::uint32_t upper = seed * 0x85EBCA6Bu ^ (std::uint32_t(yi) * 0xC2B2AE35u);
    const std::uint32_t lower = seed * 0x85EBCA6Bu ^ (std::uint32_t(yi + 1) * 0xC2B2AE35u);
    const float a = corner(upper, xi, dx, dy), b = corner(upper, xi + 1, dx - 1, dy);
    const float c = corner(lower, xi, dx, dy - 1), d = corner(lower, xi + 1, dx - 1, dy - 1);
    const float top = a + u * (b - a), bottom = c + u * (d - c);
    return top + v * (bottom - top);
}

float fractalNoise(std::uint32_t seed, float x, float y, int octaves, float gain) {
    float sum = 0, height = 1;
    for (int i = 0; i < octaves; ++i) {
        sum += height * gradientNoise(seed + std::uint32_t(i) * 101u, x, y);
        height *= gain;
        x = x * 2.03f + 17.3f;
        y = y * 2.03f - 9.7f;
    }
    return sum;
}

}  // namespace gq
