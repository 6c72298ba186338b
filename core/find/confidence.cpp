#include "core/find/confidence.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/find/confidence_weights.h"

namespace gq::find {
namespace {

constexpr size_t kFeatures = 10;

std::array<float, kFeatures> features(const Measures& m) {
    const auto log = [](float v) { return std::log(std::max(v, 1e-3f)); };
    return {std::clamp(log(m.peak), 0.0f, 4.0f),
            std::clamp(log(m.isolation), -1.0f, 4.0f),
            std::clamp(log(m.ring), -3.0f, 1.5f),
            std::clamp(log(m.sector), -4.0f, 1.0f),
            std::clamp(log(m.colour), -4.0f, 1.0f),
            std::clamp(std::log1p(m.crowd), 0.0f, 4.0f),
            std::clamp(m.rival, 0.0f, 2.0f),
            std::clamp(log(m.length / std::max(m.width, 1.0f)), 0.0f, 3.0f),
            std::clamp(log(m.contrast), -5.0f, 0.0f),
            std::clamp(log(m.size), 1.0f, 5.0f)};
}

}  // namespace

Kind kindOf(const Measures& m, Origin origin) {
    if (m.length > 5 * m.width && m.length > 20) return Kind::Fibre;
    return origin == Origin::Sensor && (m.softness > 1.0f || m.size > 6) ? Kind::Shadow
                                                                         : Kind::Speck;
}

float confidenceOf(const Measures& m) {
    if (m.contrast <= 0) return 0;
    const auto f = features(m);
    float sum = kBias;
    size_t k = 0;
    for (const float v : f) sum += kWeights[k++] * v;
    for (size_t i = 0; i < kFeatures; ++i)
        for (size_t j = i; j < kFeatures; ++j) sum += kWeights[k++] * f[i] * f[j];
    return 1 / (1 + std::exp(-sum));
}

}  // namespace gq::find
