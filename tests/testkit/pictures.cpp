#include "tests/testkit/pictures.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"

namespace gq::testkit {
namespace {

Image made(const Size& size, float (*tone)(std::uint32_t, int, int), std::uint32_t seed,
           float noise) {
    Image out(size, CV_16UC3);
    const float tint[3] = {0.82f, 0.95f, 1.1f};
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
            for (int c = 0; c < 3; ++c) {
                const float v = tone(seed, x, y) * tint[c] + noise * hashNormal(seed, x, y, c);
                out.at<cv::Vec<ushort, 3>>(y, x)[c] = ushort(std::clamp(v, 0.0f, 1.0f) * 65535);
            }
    return out;
}

float cover(const Spot& s, int x, int y) {
    const float d = std::hypot(float(x) + 0.5f - s.at.x, float(y) + 0.5f - s.at.y);
    return 1 / (1 + std::exp((d - s.radius) / (s.radius * 0.12f + 0.3f)));
}

template <class Change>
Image changed(const Image& clean, const std::vector<Spot>& spots, Change change) {
    Image out = clean.clone();
    for (const auto& s : spots) {
        const int r = int(s.radius * 3) + 4;
        for (int y = std::max(0, int(s.at.y) - r); y < std::min(out.rows, int(s.at.y) + r); ++y)
            for (int x = std::max(0, int(s.at.x) - r); x < std::min(out.cols, int(s.at.x) + r); ++x)
                for (int c = 0; c < out.channels(); ++c) {
                    auto& v = out.ptr<ushort>(y)[x * out.channels() + c];
                    v = change(v, cover(s, x, y) * s.depth);
                }
    }
    return out;
}

}  // namespace

Image sky(const Size& size, std::uint32_t seed) {
    return made(
        size,
        [](std::uint32_t s, int x, int y) {
            return 0.62f + 0.0001f * float(y) +
                   0.03f * gradientNoise(s, float(x) / 240, float(y) / 240);
        },
        seed, 0.006f);
}

Image grass(const Size& size, std::uint32_t seed) {
    return made(
        size,
        [](std::uint32_t s, int x, int y) {
            return 0.40f + 0.24f * fractalNoise(s, float(x) / 9, float(y) / 9, 4, 0.7f);
        },
        seed, 0.02f);
}

Image stones(const Size& size) {
    Image out = sky(size, 9);
    for (int i = 0; i < 900; ++i) {
        const Point at(int(hashUniform(1, i, 0) * float(size.width)),
                       int(hashUniform(1, i, 1) * float(size.height)));
        const Size axes(4 + int(20 * hashUniform(1, i, 3)), 3 + int(9 * hashUniform(1, i, 4)));
        const double tone = 65535 * (0.1 + 0.7 * double(hashUniform(1, i, 2)));
        cv::ellipse(out, at, axes, 180 * double(hashUniform(1, i, 5)), 0, 360,
                    {tone, tone * 0.9, tone * 0.7}, -1, cv::LINE_AA);
    }
    return out;
}

Image view(const Image& scene, double focal, double yaw, const Size& size) {
    cv::Mat mapX(size, CV_32F), mapY(size, CV_32F);
    for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x) {
            const double u = x - size.width / 2.0, v = y - size.height / 2.0;
            const double across = std::cos(yaw) * u + std::sin(yaw) * focal,
                         ahead = std::cos(yaw) * focal - std::sin(yaw) * u;
            mapX.at<float>(y, x) = float(focal * across / ahead + scene.cols / 2.0);
            mapY.at<float>(y, x) = float(focal * v / ahead + scene.rows / 2.0);
        }
    Image out;
    cv::remap(scene, out, mapX, mapY, cv::INTER_LINEAR, cv::BORDER_REFLECT);
    return out;
}

Image dusty(const Image& clean, const std::vector<Spot>& spots) {
    return changed(clean, spots,
                   [](ushort v, float k) { return fromLinear(toLinear(v) * (1 - k)); });
}

Image specked(const Image& clean, const std::vector<Spot>& spots) {
    return changed(clean, spots,
                   [](ushort v, float k) { return ushort(float(v) + (64000 - float(v)) * k); });
}

double psnr(const Image& a, const Image& b, const Mask& where) {
    double sum = 0;
    size_t n = 0;
    for (int y = 0; y < a.rows; ++y)
        for (int x = 0; x < a.cols; ++x) {
            if (!where.at<uchar>(y, x)) continue;
            for (int c = 0; c < a.channels(); ++c, ++n) {
                const double d = double(a.ptr<ushort>(y)[x * a.channels() + c]) -
                                 double(b.ptr<ushort>(y)[x * b.channels() + c]);
                sum += d * d;
            }
        }
    return 10 * std::log10(65535.0 * 65535.0 * double(n) / std::max(sum, 1.0));
}

int worstOutside(const Image& a, const Image& b, const Mask& mask) {
    cv::Mat d;
    cv::absdiff(a, b, d);
    d.setTo(cv::Scalar::all(0), mask);
    double most = 0;
    cv::minMaxLoc(d.reshape(1), nullptr, &most);
    return int(most);
}

Mask maskOf(const std::vector<Spot>& spots, const Size& size, float grow) {
    Mask mask(size, CV_8U, cv::Scalar(0));
    for (const auto& s : spots) paint(mask, disc(s.at, s.radius * grow + 2, size));
    return mask;
}

bool equal(const cv::Mat& a, const cv::Mat& b) {
    return a.empty() == b.empty() &&
           (a.empty() || (a.size() == b.size() && a.type() == b.type() &&
                          cv::norm(a.reshape(1), b.reshape(1), cv::NORM_INF) == 0));
}

}  // namespace gq::testkit
