#pragma once
#include <array>

#include "core/pixels/image.h"

namespace gq {

/// sRGB-encoded 16-bit value to linear light 0..1 (IEC 61966-2-1), by table.
[[nodiscard]] float toLinear(ushort encoded);
/// Linear light 0..1 to a 16-bit sRGB-encoded value, clipped.
[[nodiscard]] ushort fromLinear(float linear);

inline constexpr std::array<float, 3> kLumaWeights{0.2126f, 0.7152f, 0.0722f};  ///< Rec. 709

/// Natural logarithm of (linear luminance + 0.002) of a 16-bit picture, as one float plane.
/// Dust dims linear light by a factor, which becomes a plain offset here.
/// Shapes: 1 or 3 channels of 16 bits -> R x C float. `weights` add up to 1.
[[nodiscard]] ImageF logLuminance(const Image& pixels,
                                  const std::array<float, 3>& weights = kLumaWeights);

/// Encoded luma 0..1 (Rec. 709 weights), one float plane.
[[nodiscard]] ImageF luma(const Image& pixels);

}  // namespace gq
