#include "sim/land.h"

#include <cmath>

#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"
#include "sim/sky.h"

namespace gq::sim {
namespace {

constexpr std::uint32_t kGround = 4711;

float coast(float north) {
    return 8.0f + 0.052f * north + 26.0f * gradientNoise(kGround, north / 190.0f, 3.7f) +
           9.0f * gradientNoise(kGround + 1, north / 47.0f, 1.2f);
}

/// How strongly an octave of `wavelength` shows when one pixel covers `footprint`.
float shown(float wavelength, float footprint) {
    return smooth(1.2f, 3.5f, wavelength / footprint);
}

struct Place {
    float east, north, distance, across, along;  ///< across, along: ground one pixel covers, m
};

Colour grass(const Place& p, float height, float slope) {
    const float broad = fractalNoise(kGround + 20, p.east / 37.0f, p.north / 37.0f, 3);
    float fine = 0;
    const float footprint = std::max(p.across, p.along * 0.25f);
    for (int i = 0; i < 7; ++i) {
        const float wave = 6.0f / float(1 << i);
        const float k = shown(wave, footprint);
        if (k <= 0) break;
        fine +=
            k * 0.55f *
            gradientNoise(kGround + 30 + std::uint32_t(i), p.east / wave, p.north / (wave * 1.6f));
    }
    const Colour dry{0.23f, 0.19f, 0.085f}, green{0.085f, 0.115f, 0.028f},
        dark{0.045f, 0.06f, 0.018f};
    Colour c = mix(green, dry, smooth(-0.25f, 0.55f, broad + 0.25f * fine));
    c = mix(c, dark, smooth(0.05f, 0.7f, -fine + 0.15f * broad));
    const Colour rock{0.17f, 0.15f, 0.125f}, sand{0.42f, 0.36f, 0.26f};
    c = mix(c, rock * (1 + 0.5f * fine), smooth(0.55f, 1.0f, slope + 0.2f * fine));
    c = mix(sand * (1 + 0.12f * fine), c, smooth(1.2f, 3.4f, height + 0.8f * broad));
    return c * (1.0f + 0.32f * fine);
}

struct Light {
    Colour colour;
    float slope = 0;
};

Light lightAt(const View& v, const Place& p) {
    const float e = std::clamp(p.across * 3, 0.4f, 8.0f);
    const float here = groundHeight(p.east, p.north, e);
    const float dx = (groundHeight(p.east + e, p.north, e) - here) / e;
    const float dz = (groundHeight(p.east, p.north + e, e) - here) / e;
    const float n = 1 / std::sqrt(1 + dx * dx + dz * dz);
    const float lit = std::max(
        0.0f, n * (std::sin(v.sunHeight) - std::cos(v.sunHeight) * (dx * std::sin(v.sunAzimuth) +
                                                                    dz * std::cos(v.sunAzimuth))));
    // Shadows of drifting clouds.
    const float cloud =
        smooth(-0.1f, 0.5f,
               fractalNoise(v.seed + 90, p.east / 420.0f, p.north / 420.0f, 2) + 0.5f * v.cover);
    return {(sunlight(v) * (lit * (1 - 0.6f * cloud)) + skylight(v) * (0.6f + 0.4f * n)) * 1.5f,
            std::sqrt(dx * dx + dz * dz)};
}

Colour seaColour(const View& v, const Place& p, float azimuth, float depthUnder) {
    // Slopes of waves wide enough to be seen; the rest roughens the mirror.
    float toEye = 0, rough = 0.035f;
    const float footprint = std::max(p.across, p.along * 0.6f);
    static constexpr float kTurn[3][2] = {{0.980f, 0.199f}, {0.853f, 0.523f}, {0.622f, 0.783f}};
    float wave = 28.0f;
    for (int i = 0; i < 8; ++i, wave /= 1.75f) {
        const float height = 0.14f + 0.012f * float(i);
        const float k = shown(wave, footprint);
        const auto& turn = kTurn[i % 3];  // cosine and sine of the wave's heading
        const float a = p.east * turn[0] + p.north * turn[1];
        const float b = -p.east * turn[1] + p.north * turn[0];
        if (k > 0)
            toEye += k * height *
                     gradientNoise(v.seed + 50 + std::uint32_t(i), a / (wave * 2.2f), b / wave);
        rough += (1 - k) * height * 0.22f;
    }
    const float grazing = std::atan(kEyeHeight / p.distance);
    const float mirror = std::clamp(grazing + toEye * 0.9f, 0.01f, 1.4f);
    const float fresnel = 0.02f + 0.98f * power(1 - std::sin(std::min(mirror + rough, 1.4f)), 5);
    const Colour reflected =
        clearSky(v, {azimuth, 2 * mirror - grazing + rough * 1.5f}) * (0.95f - 0.25f * v.cover);
    const Colour deep =
        mix({0.012f, 0.045f, 0.062f}, {0.03f, 0.11f, 0.11f}, smooth(-14.0f, -1.0f, depthUnder));
    Colour c = reflected * fresnel + deep * (1 - fresnel) * 1.3f;
    // Glitter towards the sun, foam on the shore and a few crests.
    const float facing = std::max(0.0f, std::cos(azimuth - v.sunAzimuth));
    c = c + sunlight(v) * (0.55f * power(facing, 24) * smooth(0.03f, 0.22f, toEye));
    const float foam =
        depthUnder < -4.5f
            ? 0.0f
            : smooth(
                  -2.4f, -0.1f,
                  depthUnder + 1.3f * gradientNoise(v.seed + 70, p.east / 9.0f, p.north / 9.0f)) *
                  smooth(-0.25f, 0.3f,
                         gradientNoise(v.seed + 71, p.east / 2.1f, p.north / 2.1f) +
                             0.5f * gradientNoise(v.seed + 72, p.east / 0.6f, p.north / 0.6f));
    const float crest =
        smooth(0.46f, 0.62f, gradientNoise(v.seed + 73, p.east / 7.0f, p.north / 3.0f)) *
        shown(2.5f, p.across) * 0.6f;
    return mix(c, Colour{0.78f, 0.82f, 0.85f} * (0.6f + 0.4f * std::sin(v.sunHeight)),
               std::min(0.85f, foam + crest));
}

}  // namespace

float groundHeight(float east, float north, float detail) {
    const float inland = east - coast(north);
    // The cliff top on which the camera stands, then the headland that climbs away to the right.
    const float stand = 1 - smooth(6.0f, 46.0f, std::sqrt(east * east + north * north));
    const float rise = smooth(-6.0f, 26.0f, inland) * 13.0f + smooth(10.0f, 190.0f, inland) * 24.0f;
    const float far = smooth(60.0f, 300.0f, north) * smooth(0.0f, 60.0f, inland) * 15.0f;
    float h = -14.0f * (1 - smooth(-60.0f, 0.0f, inland)) - 1.0f + rise + far;
    h = std::max(h, h * (1 - stand) + stand * 31.8f);
    const float land = smooth(-2.0f, 8.0f, inland) + stand;
    if (land <= 0) return h;
    float wave = 80.0f, height = 6.5f;
    for (int i = 0; i < 9 && wave > detail; ++i) {
        const float n = gradientNoise(kGround + 5 + std::uint32_t(i), east / wave, north / wave);
        h += std::min(land, 1.0f) * height * n * (1 - 0.8f * stand);
        wave *= 0.5f;
        height *= 0.5f;
    }
    return h;
}

ImageF renderDepth(const View& v) {
    ImageF depth(v.size, CV_32F, cv::Scalar(0));
    ImageF columns(v.size.width, v.size.height, CV_32F,
                   cv::Scalar(0));  // turned: a column is a row
    const float horizon = v.horizon();
    const float eye = std::max(kEyeHeight, groundHeight(v.eastward, 0, 1.0f) + 1.7f);
    forRows(v.size.width, [&](int x) {
        auto* out = columns.ptr<float>(x);
        const float tangent = (float(x) + 0.5f - float(v.size.width) / 2) / v.focal;
        const float c = std::cos(v.yaw), s = std::sin(v.yaw);
        float filled = float(v.size.height), before = 2.0f;
        for (float d = 2.0f; d < 7000.0f; d *= 1.006f) {
            const float east = v.eastward + d * (s + c * tangent), north = d * (c - s * tangent);
            const float h =
                std::max(0.0f, groundHeight(east, north, std::max(0.15f, d / v.focal * 3)));
            const float row = horizon + v.focal * (eye - h) / d;
            if (row < filled) {
                const int from = std::max(0, int(std::ceil(row - 0.5f)));
                const int to = std::min(v.size.height, int(std::ceil(filled - 0.5f)));
                for (int y = from; y < to; ++y) {
                    const float t = (filled - (float(y) + 0.5f)) / std::max(filled - row, 1e-3f);
                    out[y] = before + std::clamp(t, 0.0f, 1.0f) * (d - before);
                }
                filled = row;
            }
            before = d;
        }
        for (int y = std::min(int(filled), v.size.height) - 1; y >= 0 && float(y) >= horizon; --y)
            out[y] = std::clamp(v.focal * eye / (float(y) + 0.5f - horizon), 7000.0f, 60000.0f);
    });
    cv::transpose(columns, depth);
    return depth;
}

void shadeGround(const View& v, const ImageF& depth, ImageF& picture) {
    const float eye = std::max(kEyeHeight, groundHeight(v.eastward, 0, 1.0f) + 1.7f);
    const float c = std::cos(v.yaw), s = std::sin(v.yaw);
    forRows(v.size.height, [&](int y) {
        const auto* d = depth.ptr<float>(y);
        auto* o = picture.ptr<cv::Vec3f>(y);
        Light light;
        float lightDistance = 0;
        for (int x = 0; x < v.size.width; ++x) {
            if (d[x] <= 0) continue;
            const float tangent = (float(x) + 0.5f - float(v.size.width) / 2) / v.focal;
            Place p{v.eastward + d[x] * (s + c * tangent), d[x] * (c - s * tangent), d[x],
                    d[x] / v.focal, d[x] * d[x] / (v.focal * eye)};
            const float h = groundHeight(p.east, p.north, std::max(0.6f, p.across * 8));
            p.along = std::min(p.along, p.across * 14);
            const float azimuth = v.azimuth(float(x) + 0.5f);
            if (h <= 0.02f) p.along = d[x] * d[x] / (v.focal * eye);
            if (h > 0.02f && (x % 2 == 0 || std::abs(d[x] - lightDistance) > 0.02f * d[x])) {
                light = lightAt(v, p);  // soft enough to serve two pixels
                lightDistance = d[x];
            }
            Colour k =
                h > 0.02f ? grass(p, h, light.slope) * light.colour : seaColour(v, p, azimuth, h);
            const float air = 1 - std::exp(-d[x] * v.haze / (h > 0.02f ? 3600.0f : 9000.0f));
            k = mix(k, hazeColour(v, azimuth), air);
            o[x] = {k.r, k.g, k.b};
        }
    });
}

}  // namespace gq::sim
