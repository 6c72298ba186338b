#pragma once
#include <cstdint>
#include <string>
#include <vector>

#include "core/pixels/image.h"

namespace gq::sim {

/// One grain or hair on the sensor's glass. Places and sizes in sensor pixels.
struct Grain {
    PointF at;
    float radius = 8;          ///< of the opaque core; half the width of a hair
    float depth = 0.2f;        ///< share of the light held back at the darkest, at f/11
    float lift = 6;            ///< width of the penumbra at f/11, px
    std::vector<PointF> hair;  ///< its run; empty for a grain
    std::uint32_t seed = 0;
};

/// One camera's dust: 26 grains of different size, softness and depth, and two soft hairs.
[[nodiscard]] std::vector<Grain> cameraDust(const Size& sensor, std::uint32_t seed);

/// Light let through at `aperture`, 1 = all: CV_32F over the sensor. A wider aperture makes
/// shadows larger, softer and fainter (penumbra = lift x 11 / aperture).
[[nodiscard]] ImageF gainMap(const std::vector<Grain>& dust, const Size& sensor, double aperture);

/// The list as JSON text, for tests.
[[nodiscard]] std::string dustJson(const std::vector<Grain>& dust, const Size& sensor);

}  // namespace gq::sim
