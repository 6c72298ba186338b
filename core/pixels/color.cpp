#include "core/pixels/color.h"

#include <array>
#include <bit>
#include <cmath>
#include <vector>

#include "core/pixels/parallel.h"

namespace gq {
namespace {

const std::vector<float>& linearTable() {
    static const std::vector<float> table = [] {
        std::vector<float> t(65536);
        for (int i = 0; i < 65536; ++i) {
            const double v = i / 65535.0;
            t[size_t(i)] = float(v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4));
        }
        return t;
    }();
    return table;
}

/// ln(x) to about 2e-4: exponent plus a polynomial of the mantissa; the same bits everywhere.
inline float fastLog(float x) {
    const auto bits = std::bit_cast<std::uint32_t>(x);
    const float exponent = float(int(bits >> 23) - 127);
    const float m = std::bit_cast<float>((bits & 0x007FFFFF) | 0x3F800000) - 1.0f;
    const float log2 =
        m * (1.4414f + m * (-0.7071f + m * (0.4138f + m * (-0.1915f + m * 0.0434f))));
    return (exponent + log2) * 0.69314718f;
}

}  // namespace

float toLinear(ushort encoded) {
    return linearTable()[encoded];
}

ushort fromLinear(float linear) {
    const float v = std::clamp(linear, 0.0f, 1.0f);
    const float e = v <= 0.0031308f ? v * 12.92f : 1.055f * std::pow(v, 1.0f / 2.4f) - 0.055f;
    return ushort(std::lround(e * 65535.0f));
}

ImageF logLuminance(const Image& pixels, const std::array<float, 3>& weights) {
    const auto& table = linearTable();
    ImageF out(pixels.size(), CV_32F);
    const bool colour = pixels.channels() == 3;
    forRows(pixels.rows, [&](int y) {
        const auto* p = pixels.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x) {
            const float l = colour
                                ? weights[0] * table[p[3 * x]] + weights[1] * table[p[3 * x + 1]] +
                                      weights[2] * table[p[3 * x + 2]]
                                : table[p[x]];
            o[x] = l + 0.002f;
        }
#pragma omp simd
        for (int x = 0; x < pixels.cols; ++x) o[x] = fastLog(o[x]);
    });
    return out;
}

ImageF luma(const Image& pixels) {
    ImageF out(pixels.size(), CV_32F);
    const bool colour = pixels.channels() == 3;
    forRows(pixels.rows, [&](int y) {
        const auto* p = pixels.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x)
            o[x] = (colour ? kLumaWeights[0] * p[3 * x] + kLumaWeights[1] * p[3 * x + 1] +
                                 kLumaWeights[2] * p[3 * x + 2]
                           : float(p[x])) *
                   (1.0f / 65535.0f);
    });
    return out;
}

}  // namespace gq
