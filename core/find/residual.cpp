#include "core/find/residual.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/departures.h"
#include "core/pixels/color.h"
#include "core/pixels/median.h"
#include "core/pixels/parallel.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

constexpr float kStep = 0.003f;  ///< of the 8-bit coding of log luminance

/// Mean over k x k of a plane, in bands, so that all threads take part; OpenCV looks beyond a band
/// by itself.
ImageF bandedMean(const ImageF& plane, int k, std::stop_token stop) {
    ImageF out(plane.size(), CV_32F);
    const int band = 256, count = (plane.rows + band - 1) / band;
    forEach(
        count,
        [&](int i) {
            const cv::Range rows(i * band, std::min(plane.rows, (i + 1) * band));
            cv::boxFilter(plane.rowRange(rows), out.rowRange(rows), CV_32F, {k, k}, {-1, -1}, true,
                          cv::BORDER_REFLECT);
        },
        stop);
    return out;
}

/// A coarse background: 5 x 5 median a level down, laid back over the plane.
ImageF coarseBackground(const ImageF& plane) {
    const ImageF small = std::min(plane.rows, plane.cols) > 16 ? ImageF(halved(plane)) : plane;
    ImageF filtered, out;
    cv::medianBlur(small, filtered, 5);
    cv::resize(filtered, out, plane.size(), 0, 0, cv::INTER_LINEAR);
    return out;
}

/// Median over `window` px of the plane, worked out on every second pixel of every second row.
ImageF fineBackground(const ImageF& plane, int window, std::stop_token stop) {
    const ImageF half = halved(plane), coarse = coarseBackground(half);
    Image8 coded(half.size(), CV_8U);
    forRows(half.rows, [&](int y) {
        const auto *p = half.ptr<float>(y), *c = coarse.ptr<float>(y);
        auto* k = coded.ptr<uchar>(y);
        for (int x = 0; x < half.cols; ++x)
            k[x] = cv::saturate_cast<uchar>((p[x] - c[x]) * (1 / kStep) + 128);
    });
    const Image8 middle = median(coded, window / 2 | 1, stop);
    ImageF fine(half.size(), CV_32F), out;
    forRows(half.rows, [&](int y) {
        const auto* c = coarse.ptr<float>(y);
        const auto* m = middle.ptr<uchar>(y);
        auto* o = fine.ptr<float>(y);
        for (int x = 0; x < half.cols; ++x) o[x] = c[x] + float(m[x] - 128) * kStep;
    });
    cv::resize(fine, out, plane.size(), 0, 0, cv::INTER_LINEAR);
    return out;
}

ImageF gradientOf(const ImageF& plane) {
    ImageF out(plane.size(), CV_32F, cv::Scalar(0));
    forRows(plane.rows, [&](int y) {
        const auto* above = plane.ptr<float>(std::max(0, y - 1));
        const auto* below = plane.ptr<float>(std::min(plane.rows - 1, y + 1));
        const auto* here = plane.ptr<float>(y);
        auto* o = out.ptr<float>(y);
#pragma omp simd
        for (int x = 1; x < plane.cols - 1; ++x) {
            const float gx = here[x + 1] - here[x - 1], gy = below[x] - above[x];
            o[x] = 0.5f * std::sqrt(gx * gx + gy * gy);
        }
    });
    return out;
}

/// How far the colour ratios depart from those of the surroundings; dust leaves them alone.
/// Half the size of the level.
ImageF chromaDeparture(const Image& half) {
    static const auto kLog = [] {
        std::array<float, 4096> t{};
        for (size_t i = 0; i < t.size(); ++i) t[i] = std::log((float(i) + 0.5f) / 4096 + 0.03f);
        return t;
    }();
    std::array<ImageF, 2> ratio{ImageF(half.size(), CV_32F), ImageF(half.size(), CV_32F)};
    forRows(half.rows, [&](int y) {
        const auto* p = half.ptr<ushort>(y);
        auto *a = ratio[0].ptr<float>(y), *b = ratio[1].ptr<float>(y);
        for (int x = 0; x < half.cols; ++x, p += 3) {
            const float g = kLog[p[1] >> 4];
            a[x] = kLog[p[0] >> 4] - g;
            b[x] = kLog[p[2] >> 4] - g;
        }
    });
    const ImageF a = coarseBackground(ratio[0]), b = coarseBackground(ratio[1]);
    ImageF out(half.size(), CV_32F);
    forRows(half.rows, [&](int y) {
        const auto *p = ratio[0].ptr<float>(y), *q = ratio[1].ptr<float>(y);
        const auto *s = a.ptr<float>(y), *t = b.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < half.cols; ++x)
            o[x] = 0.5f * (std::abs(p[x] - s[x]) + std::abs(q[x] - t[x]));
    });
    return out;
}

bool colourless(const Image8& colour) {
    if (colour.channels() == 1) return true;
    double spread = 0;
    int count = 0;
    for (int y = 0; y < colour.rows; y += 7)
        for (int x = 0; x < colour.cols; x += 7, ++count) {
            const auto& v = colour.at<cv::Vec3b>(y, x);
            spread += std::max({v[0], v[1], v[2]}) - std::min({v[0], v[1], v[2]});
        }
    return spread < 2.0 * count;
}

/// Sensor: dimming of the plane against its background.
void dimming(const Level& level, float sign, Residual& out) {
    out.toward.create(level.plane.size(), CV_32F);
    out.across.create(level.plane.size(), CV_32F);
    forRows(level.plane.rows, [&](int y) {
        const auto *p = level.plane.ptr<float>(y), *b = level.background.ptr<float>(y);
        auto *r = out.toward.ptr<float>(y), *e = out.across.ptr<float>(y);
        for (int x = 0; x < level.plane.cols; ++x) r[x] = sign * (p[x] - b[x]);
        if (level.chroma.empty()) {
            std::fill(e, e + level.plane.cols, 0.0f);
            return;
        }
        const auto* c = level.chroma.ptr<float>(std::min(y / 2, level.chroma.rows - 1));
        for (int i = 0; i < level.chroma.cols; ++i) e[2 * i] = e[2 * i + 1] = c[i];
        if (level.plane.cols % 2) e[level.plane.cols - 1] = c[level.chroma.cols - 1];
    });
    out.opacity = out.toward;
}

constexpr float kSensorFloor = 0.0035f, kOtherFloor = 0.006f;  ///< of noise

/// Noise of what a plane is more or less than another (than 0, if that is empty); half the size.
ImageF noiseOf(const ImageF& plane, const ImageF& other, float floor, std::stop_token stop) {
    constexpr int kMean = 31, kMedian = 21;
    ImageF sizes((plane.rows + 1) / 2, (plane.cols + 1) / 2, CV_32F);
    Image8 coded(sizes.size(), CV_8U);
    forRows(sizes.rows, [&](int y) {
        const auto* p = plane.ptr<float>(2 * y);
        const auto* q = other.empty() ? nullptr : other.ptr<float>(2 * y);
        auto* s = sizes.ptr<float>(y);
        auto* c = coded.ptr<uchar>(y);
        for (int x = 0; x < sizes.cols; ++x) {
            s[x] = std::abs(q ? p[2 * x] - q[2 * x] : p[2 * x]);
            c[x] = cv::saturate_cast<uchar>(s[x] * 1000);
        }
    });
    const ImageF mean = bandedMean(sizes, kMean, stop);
    if (stop.stop_requested()) return {};
    forRows(sizes.rows, [&](int y) {
        const auto* m = mean.ptr<float>(y);
        auto* s = sizes.ptr<float>(y);
        for (int x = 0; x < sizes.cols; ++x) s[x] = std::min(s[x], m[x] * 3);
    });
    ImageF out = bandedMean(sizes, kMean, stop);
    const Image8 middle = median(coded, kMedian, stop);
    if (stop.stop_requested()) return {};
    forRows(out.rows, [&](int y) {
        const auto* m = middle.ptr<uchar>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < out.cols; ++x)
            o[x] = std::max(float(m[x]) * 0.0014826f, o[x] * 1.1f) + floor;
    });
    return out;
}

}  // namespace

std::vector<LevelPlan> levelsOf(Origin origin, const Size& size) {
    if (origin == Origin::Sensor) {
        std::vector<LevelPlan> out{{1, 15, 0.8f}, {2, 15, 0.7f}, {3, 17, 0.7f}};
        if (size.area() < 8'000'000) out.insert(out.begin(), {0, 15, 0.8f});
        return out;
    }
    const int second = origin == Origin::Print ? 15 : 13;
    return {{0, 9, 0}, {1, second, 0}, {2, 15, 0}, {3, 15, 0}};
}

float toneOf(Origin origin, Polarity polarity) {
    const bool light = polarity == Polarity::Light;
    if (origin == Origin::Print) return light ? 0.95f : 0.12f;
    return light ? 0.97f : 0.03f;
}

Level tonesOf(const Image& pixels, const LevelPlan& plan, std::stop_token stop) {
    Level out;
    out.plan = plan;
    out.plane = logLuminance(pixels);
    if (plan.smoothing > 0) cv::GaussianBlur(out.plane, out.plane, {5, 5}, double(plan.smoothing));
    if (!stop.stop_requested()) out.background = fineBackground(out.plane, plan.window, stop);
    return out;
}

Level levelOf(const Image& pixels, const LevelPlan& plan, Origin origin, std::stop_token stop) {
    const bool sensor = origin == Origin::Sensor;
    Level out;
    if (sensor) {
        out = tonesOf(pixels, plan, stop);
    } else {
        out.plan = plan;
        out.plane = luma(pixels);
    }
    if (stop.stop_requested()) return out;
    out.colour = narrow(pixels);
    if (stop.stop_requested()) return out;
    out.mono = colourless(out.colour);
    if (stop.stop_requested()) return out;
    out.gradient = gradientOf(out.plane);
    if (stop.stop_requested()) return out;
    if (!sensor)
        out.backdrop = median(halved(out.colour), plan.window / 2 | 1, stop);
    else if (!out.mono)
        out.chroma = chromaDeparture(halved(pixels));
    return out;
}

Residual residualOf(const Level& level, Origin origin, Polarity polarity, std::stop_token stop) {
    const bool sensor = origin == Origin::Sensor;
    Residual out;
    if (sensor)
        dimming(level, polarity == Polarity::Dark ? -1.0f : 1.0f, out);
    else
        departures(level, toneOf(origin, polarity), out, stop);
    if (!stop.stop_requested())
        out.noise = sensor ? noiseOf(level.plane, level.background, kSensorFloor, stop)
                           : noiseOf(out.toward, {}, kOtherFloor, stop);
    return out;
}

HeldBack heldBack(const Level& level, std::stop_token stop) {
    const ImageF &plane = level.plane, &background = level.background;
    HeldBack out;
    out.noise = noiseOf(plane, background, kSensorFloor, stop);
    if (out.noise.empty()) return out;
    out.light.create(plane.size(), CV_32F);
    forRows(plane.rows, [&](int y) {
        const auto *p = plane.ptr<float>(y), *b = background.ptr<float>(y),
                   *n = out.noise.ptr<float>(y / 2);
        auto* o = out.light.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) o[x] = (b[x] - p[x]) / n[x / 2];
    });
    return out;
}

}  // namespace gq::find
