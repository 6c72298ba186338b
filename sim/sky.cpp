#include "sim/sky.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"

namespace gq::sim {

float View::horizon() const {
    return float(size.height) / 2 + focal * std::tan(tilt);
}

float View::azimuth(float column) const {
    return yaw + std::atan((column - float(size.width) / 2) / focal);
}

Sight sight(const View& v, float x, float y) {
    const float dx = (x - float(v.size.width) / 2) / v.focal;
    return {v.yaw + std::atan(dx),
            std::atan((v.horizon() - y) / (v.focal * std::sqrt(1 + dx * dx)))};
}

namespace {

float towardsSun(const View& v, const Sight& s) {
    return std::sin(s.height) * std::sin(v.sunHeight) +
           std::cos(s.height) * std::cos(v.sunHeight) * std::cos(s.azimuth - v.sunAzimuth);
}

/// Puffy noise: sharp valleys, round tops.
float billow(std::uint32_t seed, float x, float y, int octaves) {
    float sum = 0, height = 0.5f;
    for (int i = 0; i < octaves; ++i) {
        sum += height * (1 - 2.2f * std::abs(gradientNoise(seed + std::uint32_t(i) * 31u, x, y)));
        height *= 0.52f;
        x = x * 2.07f + 5.1f;
        y = y * 2.07f + 1.7f;
    }
    return sum - 0.45f;
}

struct Cloud {
    float density, light;
};

/// Clouds on a curved layer; light from the density on the sun's side.
Cloud cloudAt(const View& v, const Sight& s) {
    const float up = std::max(std::sin(s.height), 0.0f) + 0.11f;
    const float far = 1.05f / up;
    const float x = std::sin(s.azimuth) * far, y = std::cos(s.azimuth) * far;
    const float wx = x + 0.35f * gradientNoise(v.seed + 7, x * 0.9f, y * 0.9f);
    const float wy = y + 0.35f * gradientNoise(v.seed + 8, x * 0.9f, y * 0.9f);
    const int octaves = far < 3 ? 7 : far < 7 ? 5 : 4;
    const auto density = [&](float px, float py, int n) {
        const float shape = gradientNoise(v.seed + 3, px * 0.33f, py * 0.33f) * 1.1f;
        return shape + 0.75f * billow(v.seed + 11, px * 0.8f, py * 0.8f, n) + v.cover * 0.55f;
    };
    const float d = density(wx, wy, octaves);
    const float step = 0.10f;
    const float sx = std::sin(v.sunAzimuth) * step, sy = std::cos(v.sunAzimuth) * step;
    const float shade = 0.6f * std::max(0.0f, density(wx + sx, wy + sy, 4)) +
                        0.4f * std::max(0.0f, density(wx + 2.5f * sx, wy + 2.5f * sy, 3));
    return {smooth(0.0f, 0.42f, d), std::exp(-2.1f * shade) * (1 - 0.25f * smooth(0.3f, 1.1f, d))};
}

}  // namespace

Colour hazeColour(const View& v, float azimuth) {
    const float toSun = 0.5f + 0.5f * std::cos(azimuth - v.sunAzimuth);
    const Colour day{0.56f, 0.68f, 0.80f}, late{0.86f, 0.62f, 0.46f};
    return mix(day, late, v.warmth * (0.35f + 0.65f * toSun)) * (0.92f + 0.16f * toSun);
}

Colour clearSky(const View& v, const Sight& s) {
    const Colour zenith = mix({0.055f, 0.16f, 0.42f}, {0.13f, 0.19f, 0.37f}, v.warmth);
    const float t = std::exp(-std::max(s.height, 0.0f) * (4.2f - 1.4f * v.haze));
    const float glow = power(std::max(0.0f, towardsSun(v, s)), 12);
    return mix(zenith, hazeColour(v, s.azimuth), t) + sunlight(v) * (0.10f * glow);
}

Colour sunlight(const View& v) {
    return mix({1.0f, 0.95f, 0.88f}, {1.0f, 0.70f, 0.42f}, v.warmth) *
           (0.55f + 0.45f * std::sin(v.sunHeight));
}

Colour skylight(const View& v) {
    return mix({0.26f, 0.33f, 0.42f}, {0.30f, 0.30f, 0.36f}, v.warmth);
}

ImageF renderSky(const View& v) {
    const int rows = std::min(v.size.height, int(v.horizon()) + 8);
    ImageF out(v.size, CV_32FC3, cv::Scalar::all(0));
    if (rows <= 8) return out;
    // Density and light of the clouds at half size, then the picture at full size.
    ImageF clouds(rows / 2 + 1, v.size.width / 2 + 1, CV_32FC2), full;
    forRows(clouds.rows, [&](int y) {
        auto* p = clouds.ptr<cv::Vec2f>(y);
        for (int x = 0; x < clouds.cols; ++x) {
            const Cloud c = cloudAt(v, sight(v, float(2 * x) + 1, float(2 * y) + 1));
            p[x] = {c.density, c.light};
        }
    });
    cv::resize(clouds, full, {clouds.cols * 2, clouds.rows * 2}, 0, 0, cv::INTER_CUBIC);
    const Colour sun = sunlight(v), sky = skylight(v);
    forRows(rows, [&](int y) {
        auto* o = out.ptr<cv::Vec3f>(y);
        const auto* c = full.ptr<cv::Vec2f>(y);
        for (int x = 0; x < v.size.width; ++x) {
            const Sight s = sight(v, float(x) + 0.5f, float(y) + 0.5f);
            const Colour clear = clearSky(v, s);
            const float fade = smooth(0.0f, 0.10f, s.height);
            const float d = std::clamp(c[x][0], 0.0f, 1.0f) * 0.94f * (0.25f + 0.75f * fade);
            Colour cloud = sky * 0.62f + sun * (0.95f * std::clamp(c[x][1], 0.0f, 1.2f));
            cloud = mix(hazeColour(v, s.azimuth), cloud, 0.2f + 0.8f * fade);
            const Colour k = mix(clear, cloud, d);
            o[x] = {k.r, k.g, k.b};
        }
    });
    return out;
}

}  // namespace gq::sim
