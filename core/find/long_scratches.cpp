#include "core/find/long_scratches.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/fold.h"
#include "core/find/run.h"
#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr int kWindow = 129, kShortest = 170;  ///< px along the line
constexpr int kPool = 4;                       ///< rows taken together
constexpr float kStands = 4.2f;
constexpr int kMostPixels = 6'000'000;

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

/// Rows taken together, and the share of each.
struct Pool {
    Pool(int i, int rows)
        : from(i * kPool), to(std::min(rows, from + kPool)), share(1 / float(to - from)) {}
    int from, to;
    float share;
};

/// Mean of five pixels of a row, mirrored at its ends.
void meanOfFive(const float* p, int cols, float* out) {
    const auto at = [&](int x) {
        return p[cv::borderInterpolate(x, cols, cv::BORDER_REFLECT_101)];
    };
    for (const int x : {0, 1, cols - 2, cols - 1})
        out[x] = (at(x - 2) + at(x - 1) + p[x] + at(x + 1) + at(x + 2)) * 0.2f;
#pragma omp simd
    for (int x = 2; x < cols - 2; ++x)
        out[x] = (p[x - 2] + p[x - 1] + p[x] + p[x + 1] + p[x + 2]) * 0.2f;
}

/// Upright ridges in noise units, clipped so that no single place decides; one row for each kPool.
/// Stopped: nothing of use.
ImageF ridge(const ImageF& plane, std::stop_token stop) {
    constexpr int kBeside = 4;
    const int cols = plane.cols;
    ImageF heights(plane.size(), CV_32F), uneven((plane.rows + kPool - 1) / kPool, cols, CV_32F);
    forRows(
        uneven.rows,
        [&](int i) {
            const Pool pool(i, plane.rows);
            auto* u = uneven.ptr<float>(i);
            std::fill(u, u + cols, 0.0f);
            std::vector<float> sides(static_cast<size_t>(cols));
            const float* s = sides.data();
            for (int y = pool.from; y < pool.to; ++y) {
                const auto* p = plane.ptr<float>(y);
                auto* h = heights.ptr<float>(y);
                meanOfFive(p, cols, sides.data());
                std::fill(h, h + kBeside, 0.0f);
                std::fill(h + cols - kBeside, h + cols, 0.0f);
#pragma omp simd
                for (int x = kBeside; x < cols - kBeside; ++x) {
                    const float middle = (p[x - 1] + p[x] + p[x + 1]) * (1 / 3.0f),
                                left = s[x - kBeside], right = s[x + kBeside];
                    h[x] = middle - std::max(left, right);
                    u[x] += std::abs(middle - 0.5f * (left + right)) * pool.share;
                }
            }
        },
        stop);
    const cv::Size window(41, 41 / kPool | 1);
    ImageF mean, noise;
    cv::boxFilter(uneven, mean, CV_32F, window);
    if (stop.stop_requested()) return {};
    cv::boxFilter(ImageF(cv::min(uneven, mean * 3.0f)), noise, CV_32F, window);
    ImageF out(uneven.size(), CV_32F, cv::Scalar(0));
    forRows(
        out.rows,
        [&](int i) {
            const Pool pool(i, plane.rows);
            const auto* n = noise.ptr<float>(i);
            auto* o = out.ptr<float>(i);
            for (int y = pool.from; y < pool.to; ++y) {
                const auto* h = heights.ptr<float>(y);
#pragma omp simd
                for (int x = 0; x < cols; ++x)
                    o[x] += std::min(std::max(h[x] / (n[x] + 0.004f), -1.5f), 3.0f) * pool.share;
            }
        },
        stop);
    return out;
}

/// Rows moved sideways by `slope` of their distance from the middle one.
ImageF sheared(const ImageF& z, float slope) {
    ImageF out(z.size(), CV_32F);
    forRows(z.rows, [&](int y) {
        const float shift = slope * float(kPool) * (float(y) - float(z.rows) / 2);
        const int whole = int(std::floor(shift));
        const float part = shift - float(whole);
        const auto* p = z.ptr<float>(y);
        auto* o = out.ptr<float>(y);
        const auto at = [&](int x) { return p[std::clamp(x, 0, z.cols - 1)]; };
        const int from = std::clamp(-whole, 0, z.cols),
                  to = std::clamp(z.cols - 1 - whole, from, z.cols);
        for (int x = 0; x < from; ++x) o[x] = at(x + whole);
        for (int x = from; x < to; ++x)
            o[x] = p[x + whole] + part * (p[x + whole + 1] - p[x + whole]);
        for (int x = to; x < z.cols; ++x) o[x] = at(x + whole);
    });
    return out;
}

/// Mean of pooled ridges along the best of nine slopes through each place.
ImageF along(const ImageF& pooled, std::stop_token stop) {
    constexpr int kSlopes = 9, kMiddle = kSlopes / 2;
    ImageF best;
    for (int i = 0; i < kSlopes; ++i) {
        if (stop.stop_requested()) return {};
        const float slope = 0.15f * float(i - kMiddle) / float(kMiddle);
        ImageF sum;
        cv::blur(sheared(pooled, slope), sum, {1, kWindow / kPool | 1});
        sum = sheared(sum, -slope);
        best = best.empty() ? sum : ImageF(cv::max(best, sum));
    }
    return best;
}

/// Places where the sum is high and ordinary beside, in a mask of `rows` rows: grass and slats are
/// high everywhere.
Mask outstanding(const ImageF& sum, float agreed, int rows) {
    const cv::Size window(81, 41 / kPool | 1);
    ImageF mean, square, peak;
    cv::blur(sum, mean, window);
    const ImageF tame = cv::min(sum, mean + 0.6f);
    ImageF tameMean;
    cv::blur(tame, tameMean, window);
    cv::blur(ImageF(tame.mul(tame)), square, window);
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
    cv::dilate(out, out, cv::Mat::ones(3, 3, CV_8U));
    Mask full;
    cv::resize(out, full, {sum.cols, sum.rows * kPool}, 0, 0, cv::INTER_NEAREST);
    return full.rowRange(0, rows);
}

/// Mean of what was added up along the line.
float strengthOf(const ImageF& sum, const Region& region) {
    double total = 0;
    for (int y = 0; y < region.box.height; ++y) {
        const auto* m = region.mask.ptr<uchar>(y);
        const auto* s = sum.ptr<float>((region.box.y + y) / kPool) + region.box.x;
        for (int x = 0; x < region.box.width; ++x)
            if (m[x]) total += double(s[x]);
    }
    return float(total / std::max(1, region.area()));
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
    const float strength = strengthOf(sum, region);
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

/// Lines along which the sum is at least `agreed`, but for those of a pattern.
std::vector<Region> linesOf(const ImageF& sum, float agreed, int rows) {
    std::vector<Region> all, out;
    for (auto& piece : pieces(outstanding(sum, agreed, rows)))
        if (piece.box.height >= kShortest) all.push_back(std::move(piece));
    for (const auto& line : all) {
        const auto rivals = std::count_if(all.begin(), all.end(), [&](const Region& other) {
            return std::abs(other.box.x - line.box.x) < 150 && &other != &line &&
                   other.box.y < line.box.br().y && line.box.y < other.box.br().y;
        });
        if (rivals <= 3) out.push_back(line);
    }
    return out;
}

std::vector<Finding> upright(const ImageF& plane, Polarity polarity, int level, const Size& size,
                             const LineBounds& bounds, std::stop_token stop) {
    const ImageF ridges = ridge(plane, stop);
    if (stop.stop_requested()) return {};
    const ImageF sum = along(ridges, stop);
    if (sum.empty()) return {};
    std::vector<Finding> out;
    for (const auto& line : linesOf(sum, bounds.agreed, plane.rows))
        out.push_back(findingOf(line, plane, sum, polarity, level, size, bounds.agreed));
    if (bounds.folded <= 0 || polarity != Polarity::Light || stop.stop_requested()) return out;
    for (const auto& line : linesOf(sum, bounds.folded, plane.rows))
        if (foldedAlong(plane, line))
            out.push_back(findingOf(line, plane, sum, polarity, level, size, bounds.folded));
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

int scratchHalvings(const Size& size) {
    int out = 0;
    for (Size s = size; s.area() > kMostPixels; ++out) s = {s.width / 2, s.height / 2};
    return out;
}

std::vector<Finding> longScratches(const Scales& picture, Polarity polarity,
                                   const LineBounds& bounds, std::stop_token stop) {
    const Size size = picture.size();
    const int halvings = scratchHalvings(size);
    const Image& level = picture.at(halvings);
    if (std::min(level.cols, level.rows) < kShortest || stop.stop_requested()) return {};
    const ImageF plane = planeOf(level, polarity);
    auto out = upright(plane, polarity, halvings, size, bounds, stop);
    if (stop.stop_requested()) return {};
    ImageF turned;
    cv::transpose(plane, turned);
    for (auto& f : upright(turned, polarity, halvings, {size.height, size.width}, bounds, stop))
        out.push_back(transposed(std::move(f)));
    return out;
}

}  // namespace gq::find
