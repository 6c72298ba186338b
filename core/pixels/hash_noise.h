#pragma once
#include <cstdint>

namespace gq {

/// A well mixed 32-bit hash of seed, position and channel: equal bits for any tile or thread count.
/// Source: the finalizer of splitmix64 (Steele, Lea, Flood, OOPSLA 2014).
[[nodiscard]] inline std::uint32_t hash32(std::uint32_t seed, int x, int y, int channel = 0) {
    std::uint64_t v = (std::uint64_t(seed) << 32) ^ (std::uint64_t(std::uint32_t(x)) << 3) ^
                      (std::uint64_t(std::uint32_t(y)) * 0x9E3779B97F4A7C15ull) ^
                      std::uint64_t(std::uint32_t(channel)) * 0xD1B54A32D192ED03ull;
    v = (v ^ (v >> 30)) * 0xBF58476D1CE4E5B9ull;
    v = (v ^ (v >> 27)) * 0x94D049BB133111EBull;
    return std::uint32_t((v ^ (v >> 31)) >> 16);
}

/// Uniform in [0, 1).
[[nodiscard]] inline float hashUniform(std::uint32_t seed, int x, int y, int channel = 0) {
    return float(hash32(seed, x, y, channel) >> 8) * (1.0f / 16777216.0f);
}

/// About normal, mean 0, deviation 1 (sum of four 8-bit uniforms; bounded by +-3.4).
[[nodiscard]] inline float hashNormal(std::uint32_t seed, int x, int y, int channel = 0) {
    const std::uint32_t h = hash32(seed, x, y, channel);
    const float sum =
        float(h & 255) + float((h >> 8) & 255) + float((h >> 16) & 255) + float(h >> 24);
    return (sum - 510.0f) * (1.0f / 147.8f);
}

/// Smooth gradient noise in [-1, 1], zero mean, about one feature per unit.
/// Source: Perlin, "Improving Noise", SIGGRAPH 2002 (quintic fade).
[[nodiscard]] float gradientNoise(std::uint32_t seed, float x, float y);

/// `octaves` of gradient noise, each at twice the frequency and `gain` times the height.
[[nodiscard]] float fractalNoise(std::uint32_t seed, float x, float y, int octaves,
                                 float gain = 0.5f);

}  // namespace gq
