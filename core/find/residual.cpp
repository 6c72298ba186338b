#include "core/find/residual.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

constexpr float kStep = 0.003f;  ///< of the 8-bit coding of log luminance

/// Median over k x k of an 8-bit plane, in bands, so that all threads take part.
Image8 bandedMedian(const Image8& plane, int k, std::stop_token stop) {
    Image8 out(plane.size(), plane.type());
    const int band = 256, count = (plane.rows + band - 1) / band, margin = k / 2;
    forEach(
        count,
        [&](int i) {
            const int top = i * band, bottom = std::min(plane.rows, top + band);
            const int from = std::max(0, top - margin), to = std::min(plane.rows, bottom + margin);
            Image8 filtered;
            cv::medianBlur(plane.rowRange(from, to), filtered, k);
            filtered.rowRange(top - from, bottom - from).copyTo(out.rowRange(top, bottom));
        },
        stop);
    return out;
}

/// A coarse background: 5 x 5 median two levels down, laid back over the plane.
ImageF coarseBackground(const ImageF& plane) {
    ImageF small = plane;
    for (int i = 0; i < 2 && std::min(small.rows, small.cols) > 16; ++i) small = halved(small);
    ImageF filtered, out;
    cv::medianBlur(small, filtered, 5);
    cv::resize(filtered, out, plane.size(), 0, 0, cv::INTER_LINEAR);
    return out;
}

ImageF fineBackground(const ImageF& plane, int window, std::stop_token stop) {
    const ImageF coarse = coarseBackground(plane);
    Image8 coded(plane.size(), CV_8U);
    forRows(plane.rows, [&](int y) {
        const auto *p = plane.ptr<float>(y), *c = coarse.ptr<float>(y);
        auto* k = coded.ptr<uchar>(y);
        for (int x = 0; x < plane.cols; ++x)
            k[x] = cv::saturate_cast<uchar>((p[x] - c[x]) * (1 / kStep) + 128);
    });
    const Image8 median = bandedMedian(coded, window, stop);
    ImageF out(plane.size(), CV_32F);
    forRows(plane.rows, [&](int y) {
        const auto* c = coarse.ptr<float>(y);
        const auto* m = median.ptr<uchar>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) o[x] = c[x] + float(m[x] - 128) * kStep;
    });
    return out;
}

ImageF gradientOf(const ImageF& plane) {
    ImageF out(plane.size(), CV_32F, cv::Scalar(0));
    forRows(plane.rows, [&](int y) {
        const auto* above = plane.ptr<float>(std::max(0, y - 1));
        const auto* below = plane.ptr<float>(std::min(plane.rows - 1, y + 1));
        const auto* here = plane.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 1; x + 1 < plane.cols; ++x) {
            const float gx = here[x + 1] - here[x - 1], gy = below[x] - above[x];
            o[x] = 0.5f * std::sqrt(gx * gx + gy * gy);
        }
    });
    return out;
}

/// How far the colour ratios depart from those of the surroundings; dust leaves them alone.
ImageF chromaDeparture(const Image& pixels) {
    static const auto kLog = [] {
        std::array<float, 4096> t{};
        for (size_t i = 0; i < t.size(); ++i) t[i] = std::log((float(i) + 0.5f) / 4096 + 0.03f);
        return t;
    }();
    std::array<ImageF, 2> ratio{ImageF(pixels.size(), CV_32F), ImageF(pixels.size(), CV_32F)};
    forRows(pixels.rows, [&](int y) {
        const auto* p = pixels.ptr<ushort>(y);
        auto *a = ratio[0].ptr<float>(y), *b = ratio[1].ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x, p += 3) {
            const float g = kLog[p[1] >> 4];
            a[x] = kLog[p[0] >> 4] - g;
            b[x] = kLog[p[2] >> 4] - g;
        }
    });
    const ImageF a = coarseBackground(ratio[0]), b = coarseBackground(ratio[1]);
    ImageF out(pixels.size(), CV_32F);
    forRows(pixels.rows, [&](int y) {
        const auto *p = ratio[0].ptr<float>(y), *q = ratio[1].ptr<float>(y);
        const auto *s = a.ptr<float>(y), *t = b.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x)
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
    forRows(level.plane.rows, [&](int y) {
        const auto *p = level.plane.ptr<float>(y), *b = level.background.ptr<float>(y);
        auto* r = out.toward.ptr<float>(y);
        for (int x = 0; x < level.plane.cols; ++x) r[x] = sign * (p[x] - b[x]);
    });
    out.opacity = out.toward;
    out.across = level.chroma;
    if (out.across.empty()) out.across = ImageF(level.plane.size(), CV_32F, cv::Scalar(0));
}

/// Others: how far the colour has moved towards `tone`, and what of its move points elsewhere.
template <int N>
void moved(const Level& level, float tone, Residual& out) {
    const float sign = tone > 0.5f ? 1.0f : -1.0f;
    out.toward.create(level.plane.size(), CV_32F);
    out.across.create(level.plane.size(), CV_32F);
    out.opacity.create(level.plane.size(), CV_32F);
    forRows(level.plane.rows, [&](int y) {
        const auto *v = level.colour.ptr<uchar>(y), *b = level.backdrop.ptr<uchar>(y);
        auto *r = out.toward.ptr<float>(y), *e = out.across.ptr<float>(y);
        auto* o = out.opacity.ptr<float>(y);
        for (int x = 0; x < level.plane.cols; ++x, v += N, b += N) {
            float dd = 0, rd = 0, rr = 0;
            for (int c = 0; c < N; ++c) {
                const float back = float(b[c]) * (1 / 255.0f),
                            move = float(v[c]) * (1 / 255.0f) - back;
                const float d = sign * std::max(sign * (tone - back), 0.02f);
                dd += d * d;
                rd += move * d;
                rr += move * move;
            }
            const float far = std::sqrt(dd);
            r[x] = rd / far;
            e[x] = std::sqrt(std::max(rr - r[x] * r[x], 0.0f));
            o[x] = r[x] / far;
        }
    });
}

ImageF noiseOf(const ImageF& residual, float floor) {
    const ImageF size = cv::abs(residual);
    ImageF mean, clippedMean;
    const cv::Size window(61, 61);
    cv::boxFilter(size, mean, CV_32F, window, {-1, -1}, true, cv::BORDER_REFLECT);
    cv::boxFilter(ImageF(cv::min(size, mean * 3.0f)), clippedMean, CV_32F, window, {-1, -1}, true,
                  cv::BORDER_REFLECT);
    // The median is taken on every second pixel of every second row.
    Image8 sparse((size.rows + 1) / 2, (size.cols + 1) / 2, CV_8U);
    forRows(sparse.rows, [&](int y) {
        const auto* s = size.ptr<float>(2 * y);
        auto* o = sparse.ptr<uchar>(y);
        for (int x = 0; x < sparse.cols; ++x) o[x] = cv::saturate_cast<uchar>(s[2 * x] * 1000);
    });
    const Image8 median = bandedMedian(sparse, 21, {});
    ImageF out(size.size(), CV_32F);
    forRows(out.rows, [&](int y) {
        const auto* m = median.ptr<uchar>(y / 2);
        const auto* c = clippedMean.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < out.cols; ++x)
            o[x] = std::max(float(m[x / 2]) * 0.0014826f, c[x] * 1.1f) + floor;
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
    return {{0, 9, 0}, {1, second, 0}, {2, 15, 0}};
}

float toneOf(Origin origin, Polarity polarity) {
    const bool light = polarity == Polarity::Light;
    if (origin == Origin::Print) return light ? 0.95f : 0.12f;
    return light ? 0.97f : 0.03f;
}

Level levelOf(const Image& pixels, const LevelPlan& plan, Origin origin, std::stop_token stop) {
    Level out;
    out.plan = plan;
    out.colour = narrow(pixels);
    out.mono = colourless(out.colour);
    const bool sensor = origin == Origin::Sensor;
    out.plane = sensor ? logLuminance(pixels) : luma(pixels);
    if (plan.smoothing > 0) cv::GaussianBlur(out.plane, out.plane, {5, 5}, double(plan.smoothing));
    out.gradient = gradientOf(out.plane);
    if (stop.stop_requested()) return out;
    if (sensor) {
        out.background = fineBackground(out.plane, plan.window, stop);
        if (!out.mono) out.chroma = chromaDeparture(pixels);
    } else {
        out.backdrop = bandedMedian(out.colour, plan.window, stop);
    }
    return out;
}

Residual residualOf(const Level& level, Origin origin, Polarity polarity, std::stop_token stop) {
    Residual out;
    if (origin == Origin::Sensor)
        dimming(level, polarity == Polarity::Dark ? -1.0f : 1.0f, out);
    else if (level.colour.channels() == 3)
        moved<3>(level, toneOf(origin, polarity), out);
    else
        moved<1>(level, toneOf(origin, polarity), out);
    if (!stop.stop_requested())
        out.noise = noiseOf(out.toward, origin == Origin::Sensor ? 0.0035f : 0.006f);
    return out;
}

}  // namespace gq::find
