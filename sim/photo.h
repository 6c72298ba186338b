#pragma once
#include <cstdint>

#include "core/pixels/image.h"

namespace gq::sim {

/// What the sensor's electronics add: noise that grows with the root of the light.
struct Sensor {
    float shot = 0.0070f;  ///< deviation at white
    float read = 0.0012f;  ///< deviation in the dark
    std::uint32_t seed = 1;
};

/// Develops light (CV_32FC3, times `gain`, CV_32F or empty) to an 8-bit sRGB picture: noise, a
/// gentle shoulder, sRGB encoding. Only pixels in `box` are worked out; the rest of `out` stays.
void develop(const ImageF& light, const ImageF& gain, const Sensor& sensor, const Rect& box,
             Image8& out);

/// What the simulated sensor records of no light, and of all it can hold.
inline constexpr float kBlack = 512, kWhite = 16383;
/// What a Bayer sensor (red first) records of the same light: CV_16U.
[[nodiscard]] Image mosaic(const ImageF& light, const ImageF& gain, const Sensor& sensor);

/// White balance of the simulated sensor: what neutral light gives in red, green, blue.
inline constexpr float kNeutral[3] = {0.52f, 1.0f, 0.68f};

}  // namespace gq::sim
