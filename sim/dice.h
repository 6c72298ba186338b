#pragma once
#include <cmath>

#include "core/pixels/hash_noise.h"

namespace gq::sim {

/// A repeatable run of random numbers from a seed.
class Dice {
  public:
    explicit Dice(std::uint32_t seed) : m_seed(seed) {}
    float unit() { return hashUniform(m_seed, m_count++, 77); }  ///< uniform in [0, 1)
    float between(float lo, float hi) { return lo + (hi - lo) * unit(); }
    float betweenLog(float lo, float hi) { return lo * std::pow(hi / lo, unit()); }
    float normal() { return hashNormal(m_seed, m_count++, 78); }
    bool chance(float share) { return unit() < share; }
    std::uint32_t seed() { return hash32(m_seed, m_count++, 79); }
    /// A whole number about `mean`: its part after the point is rounded up by chance.
    int count(float mean) { return int(mean + unit()); }

  private:
    std::uint32_t m_seed;
    int m_count = 0;
};

}  // namespace gq::sim
