#pragma once
#include <cstdint>

#include "core/pixels/image.h"

namespace gq::sim {

struct Colour {
    float r = 0, g = 0, b = 0;
    Colour operator*(float k) const { return {r * k, g * k, b * k}; }
    Colour operator*(const Colour& o) const { return {r * o.r, g * o.g, b * o.b}; }
    Colour operator+(const Colour& o) const { return {r + o.r, g + o.g, b + o.b}; }
};
inline Colour mix(const Colour& a, const Colour& b, float t) {
    return a * (1 - t) + b * t;
}

inline float smooth(float lo, float hi, float v) {
    const float t = v <= lo ? 0.0f : v >= hi ? 1.0f : (v - lo) / (hi - lo);
    return t * t * (3 - 2 * t);
}

inline float power(float v, int n) {
    float out = 1;
    for (; n > 0; n >>= 1, v *= v)
        if (n & 1) out *= v;
    return out;
}

/// Where the camera stands and looks, and the light of one frame. Angles in radians, metres.
struct View {
    Size size;           ///< as shown, px
    float focal = 1;     ///< px
    float yaw = 0;       ///< to the right of north
    float tilt = 0;      ///< horizon moved down by focal * tan(tilt)
    float eastward = 0;  ///< where the camera stands
    float sunAzimuth = -0.9f, sunHeight = 0.7f;
    float cover = 0.0f;  ///< clouds: -1 clear .. 1 overcast
    float haze = 1.0f;
    float warmth = 0.0f;  ///< 0 noon .. 1 late sun
    float exposure = 1.0f;
    std::uint32_t seed = 1;

    [[nodiscard]] float horizon() const;              ///< row of the horizon
    [[nodiscard]] float azimuth(float column) const;  ///< of a column
};

/// One pixel's line of sight.
struct Sight {
    float azimuth, height;  ///< radians; height above the horizon
};
[[nodiscard]] Sight sight(const View& view, float x, float y);

inline constexpr float kEyeHeight = 34.0f;  ///< of the camera above the sea

}  // namespace gq::sim
