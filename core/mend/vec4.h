#pragma once
#include <algorithm>
#include <opencv2/core.hpp>

namespace gq::mend {

/// Four floats worked on at once (red, green, blue, unused), by the compiler's vector extension.
using Vec4 = float __attribute__((vector_size(16)));

inline Vec4 splat(float v) {
    return Vec4{v, v, v, v};
}
/// A pixel of one channel or three, as shares of full.
inline Vec4 vec4Of(const ushort* pixel, int channels) {
    return Vec4{float(pixel[0]), float(pixel[channels > 1 ? 1 : 0]),
                float(pixel[channels > 2 ? 2 : 0]), 0} *
           splat(1.0f / 65535);
}
inline float sum3(const Vec4& v) {
    return v[0] + v[1] + v[2];
}
inline float lumaOf(const Vec4& v) {
    return 0.3f * v[0] + 0.59f * v[1] + 0.11f * v[2];
}

}  // namespace gq::mend
