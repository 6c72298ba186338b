#include "sim/photo.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/parallel.h"

namespace gq::sim {
namespace {

float noisy(float light, const Sensor& s, int x, int y, int c) {
    const float k = c == 1 ? 1.0f : 1.35f;  // red and blue are amplified for the white balance
    return light + k * std::sqrt(s.read * s.read + s.shot * s.shot * std::max(light, 0.0f)) *
                       hashNormal(s.seed, x, y, c);
}

/// A shoulder that keeps bright clouds from clipping hard.
float shoulder(float v) {
    return v < 0.7f ? v : 0.7f + 0.3f * (1 - std::exp(-(v - 0.7f) / 0.3f));
}

/// 8-bit sRGB codes by linear light in 1/32768 steps.
const std::vector<uchar>& codes() {
    static const std::vector<uchar> table = [] {
        std::vector<uchar> t(32769);
        for (int i = 0; i <= 32768; ++i)
            t[size_t(i)] = uchar((fromLinear(float(i) / 32768) * 255u + 32895u) >> 16);
        return t;
    }();
    return table;
}

}  // namespace

void develop(const ImageF& light, const ImageF& gain, const Sensor& sensor, const Rect& box,
             Image8& out) {
    const Rect work = grown(box, 2, light.size());
    ImageF developed(work.size(), CV_32FC3);
    forRows(work.height, [&](int y) {
        const auto* from = light.ptr<cv::Vec3f>(work.y + y) + work.x;
        const auto* g = gain.empty() ? nullptr : gain.ptr<float>(work.y + y) + work.x;
        auto* to = developed.ptr<cv::Vec3f>(y);
        for (int x = 0; x < work.width; ++x)
            for (int c = 0; c < 3; ++c)
                to[x][c] = shoulder(
                    noisy(from[x][c] * (g ? g[x] : 1.0f), sensor, work.x + x, work.y + y, c));
    });
    // Noise of a developed picture is a little coarser than one pixel.
    cv::Mat soft;
    cv::GaussianBlur(developed, soft, {3, 3}, 0.5);
    const auto& code = codes();
    forRows(box.height, [&](int y) {
        const auto* from = soft.ptr<cv::Vec3f>(box.y - work.y + y) + (box.x - work.x);
        auto* to = out.ptr<cv::Vec3b>(box.y + y) + box.x;
        for (int x = 0; x < box.width; ++x)
            for (int c = 0; c < 3; ++c)
                to[x][c] = code[size_t(std::clamp(from[x][c], 0.0f, 1.0f) * 32768.0f + 0.5f)];
    });
}

Image mosaic(const ImageF& light, const ImageF& gain, const Sensor& sensor) {
    Image out(light.size(), CV_16U);
    forRows(light.rows, [&](int y) {
        const auto* from = light.ptr<cv::Vec3f>(y);
        const auto* g = gain.empty() ? nullptr : gain.ptr<float>(y);
        auto* to = out.ptr<ushort>(y);
        for (int x = 0; x < light.cols; ++x) {
            const int c = (y & 1) + (x & 1);  // RG / GB
            const float v = noisy(from[x][c] * (g ? g[x] : 1.0f), sensor, x, y, c) * kNeutral[c];
            to[x] = ushort(std::clamp(kBlack + v * (kWhite - kBlack), 0.0f, kWhite));
        }
    });
    return out;
}

}  // namespace gq::sim
