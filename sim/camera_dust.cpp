#include "sim/camera_dust.h"

#include <cmath>
#include <nlohmann/json.hpp>
#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"

namespace gq::sim {
namespace {

constexpr int kGrains = 26;

/// A blob whose outline wavers by a few harmonics, four times as fine as the sensor's pixels.
void drawGrain(cv::Mat& fine, const Grain& g, PointF origin) {
    std::vector<Point> outline;
    for (int i = 0; i < 64; ++i) {
        const float a = float(i) / 64 * 6.2831853f;
        float r = 1;
        for (int k = 2; k < 6; ++k)
            r += 0.16f / float(k - 1) * hashNormal(g.seed, k, 1) *
                 std::cos(float(k) * a + 6.28f * hashUniform(g.seed, k, 2));
        const PointF p =
            (g.at + PointF(std::cos(a), std::sin(a)) * (g.radius * std::max(0.4f, r)) - origin) * 4;
        outline.emplace_back(int(std::lround(p.x)), int(std::lround(p.y)));
    }
    cv::fillPoly(fine, std::vector<std::vector<Point>>{outline}, cv::Scalar(1));
}

void drawHair(cv::Mat& fine, const Grain& g, PointF origin) {
    for (size_t i = 1; i < g.hair.size(); ++i) {
        const PointF a = (g.hair[i - 1] - origin) * 4, b = (g.hair[i] - origin) * 4;
        cv::line(fine, a, b, cv::Scalar(1), int(g.radius * 8), cv::LINE_AA);
    }
}

Rect reach(const Grain& g, float margin, const Size& sensor) {
    PointF lo = g.at, hi = g.at;
    for (const auto& p : g.hair) {
        lo = {std::min(lo.x, p.x), std::min(lo.y, p.y)};
        hi = {std::max(hi.x, p.x), std::max(hi.y, p.y)};
    }
    const float m = g.radius * 2 + margin;
    return Rect(Point(int(lo.x - m), int(lo.y - m)), Point(int(hi.x + m) + 1, int(hi.y + m) + 1)) &
           Rect({0, 0}, sensor);
}

}  // namespace

std::vector<Grain> cameraDust(const Size& sensor, std::uint32_t seed) {
    std::vector<Grain> dust;
    const float unit = float(sensor.width) / 4256.0f;
    for (int i = 0; i < kGrains; ++i) {
        const auto u = [&](int k) { return hashUniform(seed, i, k); };
        Grain g;
        // Most grains lie where pictures have sky; a few lower down.
        g.at = {(0.04f + 0.92f * u(0)) * float(sensor.width),
                (0.04f + (i % 4 == 3 ? 0.9f : 0.55f) * u(1)) * float(sensor.height)};
        g.radius = unit * (4.0f + 16.0f * u(2) * u(2));
        g.lift = unit * (4.0f + 14.0f * u(3));
        g.depth = i % 5 == 4 ? 0.018f + 0.02f * u(4) : 0.05f + 0.30f * u(4) * u(4);
        g.seed = hash32(seed, i, 9);
        dust.push_back(g);
    }
    for (int i = 0; i < 2; ++i) {
        const auto u = [&](int k) { return hashUniform(seed + 5, i, k); };
        Grain g;
        g.at = {(0.3f + 0.45f * float(i) + 0.1f * u(0)) * float(sensor.width),
                (0.10f + 0.2f * u(1)) * float(sensor.height)};
        g.radius = unit * 2.6f;
        g.lift = unit * 4;
        g.depth = 0.16f;
        g.seed = hash32(seed, i, 10);
        float heading = 6.28f * u(2);
        PointF p = g.at;
        for (int k = 0; k < 26; ++k) {
            g.hair.push_back(p);
            heading +=
                0.16f * std::sin(float(k) * 0.35f + 6 * u(3)) + 0.10f * hashNormal(g.seed, k, 3);
            p += PointF(std::cos(heading), std::sin(heading)) * (unit * 8);
        }
        dust.push_back(g);
    }
    return dust;
}

ImageF gainMap(const std::vector<Grain>& dust, const Size& sensor, double aperture) {
    ImageF gain(sensor, CV_32F, cv::Scalar(1));
    for (const auto& g : dust) {
        const float sigma = std::max(0.6f, g.lift * float(11.0 / aperture) * 0.45f);
        const Rect box = reach(g, 4 * sigma, sensor);
        if (box.empty()) continue;
        cv::Mat fine(box.height * 4, box.width * 4, CV_32F, cv::Scalar(0)), cover;
        const PointF origin{PointF(box.tl())};
        if (g.hair.empty())
            drawGrain(fine, g, origin);
        else
            drawHair(fine, g, origin);
        cv::resize(fine, cover, box.size(), 0, 0, cv::INTER_AREA);
        cv::GaussianBlur(cover, cover, {}, double(sigma));
        // `depth` holds at f/11; there a small grain's core is already washed out by its penumbra.
        const double s11 = std::max(0.6, double(g.lift) * 0.45), r = double(g.radius);
        const double core =
            g.hair.empty() ? 1 - std::exp(-r * r / (2 * s11 * s11)) : std::erf(r / (1.414 * s11));
        cv::Mat part = gain(box);
        part = part.mul(1 - cover * std::min(0.92, double(g.depth) / core));
    }
    gain.setTo(1, gain > 0.9985f);  // what no 8-bit frame can show is not called dust
    return gain;
}

std::string dustJson(const std::vector<Grain>& dust, const Size& sensor) {
    nlohmann::json list = nlohmann::json::array();
    for (const auto& g : dust)
        list.push_back({{"x", g.at.x},
                        {"y", g.at.y},
                        {"radius", g.radius},
                        {"depth", g.depth},
                        {"penumbra", g.lift},
                        {"kind", g.hair.empty() ? "shadow" : "fibre"}});
    return nlohmann::json{{"sensor", {sensor.width, sensor.height}}, {"dust", list}}.dump(1);
}

}  // namespace gq::sim
