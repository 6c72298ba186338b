#include "core/find/long_scratches.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/run.h"
#include "core/pixels/parallel.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

constexpr int kWindow = 129, kShortest = 170;
constexpr float kStands = 4.2f;

/// The channel in which dust shows most: light dust lifts the darkest, dark dust the brightest.
ImageF planeOf(const Image& pixels, Polarity polarity) {
    ImageF out(pixels.size(), CV_32F);
    const int channels = pixels.channels();
    const bool light = polarity == Polarity::Light;
    forRows(pixels.rows, [&](int y) {
        const auto* p = pixels.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < pixels.cols; ++x, p += channels) {
            int v = p[0];
            for (int c = 1; c < channels; ++c)
                v = light ? std::min<int>(v, p[c]) : std::max<int>(v, p[c]);
            o[x] = float(light ? v : 65535 - v) * (1 / 65535.0f);
        }
    });
    return out;
}

/// Upright ridges in noise units, clipped so that no single place decides.
ImageF ridge(const ImageF& plane) {
    ImageF middle, side;
    cv::blur(plane, middle, {3, 1});
    cv::blur(plane, side, {5, 1});
    ImageF out(plane.size(), CV_32F, cv::Scalar(0)), even(plane.size(), CV_32F, cv::Scalar(0));
    forRows(plane.rows, [&](int y) {
        const auto *m = middle.ptr<float>(y), *s = side.ptr<float>(y);
        auto *o = out.ptr<float>(y), *e = even.ptr<float>(y);
        for (int x = 4; x + 4 < plane.cols; ++x) {
            o[x] = m[x] - std::max(s[x - 4], s[x + 4]);
            e[x] = std::abs(m[x] - 0.5f * (s[x - 4] + s[x + 4]));
        }
    });
    ImageF mean, noise;
    cv::boxFilter(even, mean, CV_32F, {41, 41});
    cv::boxFilter(ImageF(cv::min(even, mean * 3.0f)), noise, CV_32F, {41, 41});
    forRows(plane.rows, [&](int y) {
        auto* o = out.ptr<float>(y);
        const auto* n = noise.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) o[x] = std::clamp(o[x] / (n[x] + 0.004f), -1.5f, 3.0f);
    });
    return out;
}

/// Mean of the ridge along the best of nine slopes through each place.
ImageF along(const ImageF& z, std::stop_token stop) {
    constexpr int kSlopes = 9;
    std::vector<ImageF> sums(kSlopes);
    forEach(
        kSlopes,
        [&](int i) {
            const float slope = 0.15f * float(i - kSlopes / 2) / float(kSlopes / 2);
            const cv::Matx23f shear(1, slope, -slope * float(z.rows) / 2, 0, 1, 0);
            ImageF sheared;
            cv::warpAffine(z, sheared, shear, z.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                           cv::BORDER_REPLICATE);
            cv::blur(sheared, sheared, {1, kWindow});
            cv::warpAffine(sheared, sums[size_t(i)], shear, z.size(), cv::INTER_LINEAR,
                           cv::BORDER_REPLICATE);
        },
        stop);
    if (stop.stop_requested()) return {};
    for (int i = 1; i < kSlopes; ++i) cv::max(sums[0], sums[size_t(i)], sums[0]);
    return sums[0];
}

/// Places where the sum is high and ordinary beside: grass and slats are high everywhere.
Mask outstanding(const ImageF& sum, float agreed) {
    ImageF mean, square, peak;
    cv::blur(sum, mean, {81, 41});
    const ImageF tame = cv::min(sum, mean + 0.6f);
    ImageF tameMean;
    cv::blur(tame, tameMean, {81, 41});
    cv::blur(ImageF(tame.mul(tame)), square, {81, 41});
    cv::dilate(sum, peak, cv::Mat::ones(1, 9, CV_8U));
    Mask out(sum.size(), CV_8U);
    forRows(sum.rows, [&](int y) {
        const auto *s = sum.ptr<float>(y), *m = mean.ptr<float>(y), *t = tameMean.ptr<float>(y);
        const auto *q = square.ptr<float>(y), *p = peak.ptr<float>(y);
        auto* o = out.ptr<uchar>(y);
        for (int x = 0; x < sum.cols; ++x) {
            const float deviation = std::sqrt(std::max(q[x] - t[x] * t[x], 0.0f)) + 0.05f;
            o[x] = s[x] > agreed && (s[x] - m[x]) / deviation > kStands && s[x] >= p[x] - 1e-6f
                       ? 255
                       : 0;
        }
    });
    cv::dilate(out, out, cv::Mat::ones(5, 3, CV_8U));
    return out;
}

/// Mean tone of the line over that of a strip on either side.
float contrastOf(const ImageF& plane, const Region& region) {
    const Region near = grown(region, 2, plane.size()), far = grown(region, 5, plane.size());
    Mask strip = far.mask.clone();
    strip(Rect(near.box.tl() - far.box.tl(), near.box.size())).setTo(0, near.mask);
    return float(cv::mean(plane(region.box), region.mask)[0] - cv::mean(plane(far.box), strip)[0]);
}

Finding findingOf(const Region& region, const ImageF& plane, const ImageF& sum, Polarity polarity,
                  int level, const Size& size, float agreed) {
    Finding f;
    f.kind = Kind::Scratch;
    f.polarity = polarity;
    const auto scale = float(1 << level);
    const float strength = float(cv::mean(sum(region.box), region.mask)[0]);
    f.measures.length = float(region.box.height) * scale;
    f.measures.width = 3 * scale;
    f.measures.size = std::sqrt(f.measures.length * f.measures.width * 1.27f);
    f.measures.peak = strength;
    f.measures.contrast = contrastOf(plane, region);
    f.confidence =
        1 / (1 + std::exp(-5 * (strength - agreed) -
                          0.006f * (f.measures.length - float(kShortest) * scale) - 0.4f));
    std::vector<PointF> path;
    for (const PointF& p : runOf(region, 16)) path.push_back(p * scale);
    f.region = stroke(path, 3 * scale, size);
    return f;
}

std::vector<Finding> upright(const ImageF& plane, Polarity polarity, int level, const Size& size,
                             float agreed, std::stop_token stop) {
    const ImageF sum = along(ridge(plane), stop);
    if (sum.empty()) return {};
    std::vector<Region> lines;
    for (auto& piece : pieces(outstanding(sum, agreed)))
        if (piece.box.height >= kShortest) lines.push_back(std::move(piece));
    std::vector<Finding> out;
    for (const auto& line : lines) {
        const auto rivals = std::count_if(lines.begin(), lines.end(), [&](const Region& other) {
            return std::abs(other.box.x - line.box.x) < 150 && &other != &line &&
                   other.box.y < line.box.br().y && line.box.y < other.box.br().y;
        });
        if (rivals <= 3) out.push_back(findingOf(line, plane, sum, polarity, level, size, agreed));
    }
    return out;
}

/// A finding of the transposed picture as it lies in the picture.
Finding transposed(Finding f) {
    Mask mask;
    cv::transpose(f.region.mask, mask);
    f.region = {Rect(f.region.box.y, f.region.box.x, f.region.box.height, f.region.box.width),
                mask};
    return f;
}

}  // namespace

std::vector<Finding> longScratches(const Image& pixels, Polarity polarity, float agreed,
                                   std::stop_token stop) {
    Image level = pixels;
    int halvings = 0;
    for (; level.total() > 6'000'000; ++halvings) level = halved(level);
    if (std::min(level.cols, level.rows) < kShortest) return {};
    const ImageF plane = planeOf(level, polarity);
    auto out = upright(plane, polarity, halvings, pixels.size(), agreed, stop);
    if (stop.stop_requested()) return {};
    ImageF turned;
    cv::transpose(plane, turned);
    for (auto& f : upright(turned, polarity, halvings, {pixels.rows, pixels.cols}, agreed, stop))
        out.push_back(transposed(std::move(f)));
    return out;
}

}  // namespace gq::find
