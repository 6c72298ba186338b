#include "core/film/infrared.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"

namespace gq::film {
namespace {

constexpr int kTile = 192;
constexpr int kDust = 15;         ///< px; wider dark things are edges of the picture
constexpr double kSilver = 0.45;  ///< of the picture's contrast; dyes show a tenth of it
constexpr float kUnsure = 0.5f;   ///< px by which edges of the plane may lie elsewhere

ImageF logOf(const Image& plane) {
    ImageF out(plane.size(), CV_32F);
    forRows(plane.rows, [&](int y) {
        const auto* p = plane.ptr<ushort>(y);
        auto* o = out.ptr<float>(y);
        for (int x = 0; x < plane.cols; ++x) o[x] = std::log(toLinear(p[x]) + 0.0006f);
    });
    return out;
}

/// The shift that lays the infrared on the picture, from steepness in a middle part.
PointF shiftOf(const ImageF& picture, const ImageF& infrared) {
    const int side = std::min({1024, picture.cols, picture.rows}) & ~1;
    const Rect middle((picture.cols - side) / 2, (picture.rows - side) / 2, side, side);
    const auto steep = [&](const ImageF& p) {
        ImageF gx, gy, out;
        cv::Sobel(p(middle), gx, CV_32F, 1, 0);
        cv::Sobel(p(middle), gy, CV_32F, 0, 1);
        cv::magnitude(gx, gy, out);
        cv::threshold(out, out, 1.0, 0, cv::THRESH_TRUNC);
        return out;
    };
    ImageF window;
    cv::createHanningWindow(window, middle.size(), CV_32F);
    const auto d = cv::phaseCorrelate(steep(picture), steep(infrared), window);
    if (std::hypot(d.x, d.y) > 8) return {};  // further apart than any scanner's: not believed
    return {float(d.x), float(d.y)};
}

using Weights = cv::Vec<double, 5>;  ///< of 1, the colours' logs, the square of their mean

Weights basisOf(const std::vector<ImageF>& colours, int x, int y) {
    Weights b(1, 0, 0, 0, 0);
    double mean = 0;
    for (size_t c = 0; c < colours.size(); ++c) {
        b[int(c) + 1] = double(colours[c].at<float>(y, x));
        mean += b[int(c) + 1] / double(colours.size());
    }
    b[4] = mean * mean;
    return b;
}

/// Every so many pixels a way are enough for a fit.
int stepFor(const Size& size) {
    return std::max(2, int(std::sqrt(double(size.area()) / 1e5)));
}

/// Least squares of the infrared on the picture over a tile, twice: the second time without what
/// lies far below the first fit.
Weights fitTile(const std::vector<ImageF>& colours, const ImageF& infrared, const Rect& box,
                Weights start, bool haveStart) {
    Weights w = start;
    const int step = stepFor(box.size());
    for (int round = haveStart ? 1 : 0; round < 3; ++round) {
        auto m = cv::Matx<double, 5, 5>::zeros();
        Weights v = Weights::all(0);
        for (int y = box.y; y < box.br().y; y += step)
            for (int x = box.x; x < box.br().x; x += step) {
                const Weights b = basisOf(colours, x, y);
                const double value = double(infrared.at<float>(y, x));
                const double rest = value - w.dot(b);
                if (round > 0 && (rest < -0.05 || rest > 0.10)) continue;
                m += b * b.t();
                v += b * value;
            }
        for (int i = 1; i < 5; ++i) m(i, i) += 0.02 * m(0, 0) + 1;  // a weak pull to no crosstalk
        m(0, 0) += 1e-6;
        w = m.solve(v, cv::DECOMP_CHOLESKY);
    }
    return w;
}

/// How much of the picture's contrast the infrared shows: the deviation of what the colours explain
/// over that of their own mean. Weights themselves do not tell, since the square of a dark picture
/// does as well as the picture.
double shareShown(const std::vector<ImageF>& colours, const Weights& w) {
    const Size size = colours[0].size();
    const int step = stepFor(size);
    std::vector<double> explained, own;
    for (int y = 0; y < size.height; y += step)
        for (int x = 0; x < size.width; x += step) {
            const Weights b = basisOf(colours, x, y);
            explained.push_back(w.dot(b));
            own.push_back(b[1] + b[2] + b[3]);
        }
    const auto deviation = [](const std::vector<double>& values) {
        cv::Scalar mean, out;
        cv::meanStdDev(values, mean, out);
        return out[0];
    };
    return deviation(explained) / std::max(deviation(own) / double(colours.size()), 1e-3);
}

void blur(ImageF& plane, double sigma) {
    if (sigma > 0) cv::GaussianBlur(plane, plane, {}, sigma);
}

/// How far the infrared is out of focus: of four blurs the one by which the picture explains a
/// middle part best; sigma, px.
double focusOf(const std::vector<ImageF>& colours, const ImageF& infrared) {
    const Size all = infrared.size(), side(std::min(1024, all.width), std::min(1024, all.height));
    const Rect middle(Point((all.width - side.width) / 2, (all.height - side.height) / 2), side);
    const ImageF part = infrared(middle);
    double least = 1e9, best = 0;
    for (const double sigma : {0.0, 0.7, 1.0, 1.4}) {
        std::vector<ImageF> seen;
        for (const auto& c : colours) blur(seen.emplace_back(c(middle).clone()), sigma);
        const Weights w = fitTile(seen, part, Rect({0, 0}, side), {}, false);
        double rest = 0;
        const int step = stepFor(side);
        for (int y = 0; y < side.height; y += step)
            for (int x = 0; x < side.width; x += step)
                rest += std::min(
                    0.1, std::abs(double(part.at<float>(y, x)) - w.dot(basisOf(seen, x, y))));
        if (rest < least) least = rest, best = sigma;
    }
    return best;
}

ImageF moved(const ImageF& plane, PointF shift) {
    const cv::Matx23f move(1, 0, shift.x, 0, 1, shift.y);
    ImageF out;
    cv::warpAffine(plane, out, move, plane.size(), cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

/// What is left of the shift, px: least squares on the slopes of what the picture explains (Lucas,
/// Kanade, IJCAI 1981), without dust.
PointF left(const std::vector<ImageF>& colours, const ImageF& infrared, const Weights& w) {
    const auto expected = [&](int x, int y) { return w.dot(basisOf(colours, x, y)); };
    cv::Matx22d m = cv::Matx22d::eye() * 1e-3;
    cv::Vec2d v(0, 0);
    const int step = stepFor(infrared.size());
    for (int y = 1; y + 1 < infrared.rows; y += step)
        for (int x = 1; x + 1 < infrared.cols; x += step) {
            const double rest = double(infrared.at<float>(y, x)) - expected(x, y);
            if (rest < -0.2 || rest > 0.2) continue;
            const cv::Vec2d slope(0.5 * (expected(x + 1, y) - expected(x - 1, y)),
                                  0.5 * (expected(x, y + 1) - expected(x, y - 1)));
            m += slope * slope.t();
            v += slope * rest;
        }
    const cv::Vec2d d = m.solve(v, cv::DECOMP_CHOLESKY);
    return {float(std::clamp(d[0], -1.0, 1.0)), float(std::clamp(d[1], -1.0, 1.0))};
}

/// Dust covers little: what is left elsewhere is noise. At the picture's own edges the plane, out
/// of focus and shifted by parts of a pixel, is not told to better than a step; dust, dark in the
/// picture too, is no such edge.
ImageF noiseOf(const ImageF& depth, const ImageF& expected) {
    ImageF mean, clean, gx, gy;
    cv::boxFilter(ImageF(cv::min(cv::abs(depth), 0.1f)), mean, CV_32F, {61, 61}, {-1, -1}, true,
                  cv::BORDER_REFLECT);
    cv::morphologyEx(expected, clean, cv::MORPH_CLOSE, Mask::ones(kDust, kDust, CV_8U));
    cv::Sobel(clean, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(clean, gy, CV_32F, 0, 1, 3, 0.125);
    cv::magnitude(gx, gy, clean);
    cv::dilate(clean, gx, Mask::ones(3, 3, CV_8U));
    return mean * 1.25f + gx * kUnsure + 0.004f;
}

}  // namespace

std::optional<bool> InfraredDust::isDarkIn(const Image& pixels) const {
    constexpr float kStands = 5;  // noises
    constexpr int kEnough = 20, kAround = 31;
    const Mask lies = depth > noise * kStands;
    if (cv::countNonZero(lies) < kEnough) return std::nullopt;
    const ImageF tone = luma(pixels);
    ImageF around;
    cv::blur(tone, around, {kAround, kAround});
    return cv::mean(tone - around, lies)[0] < 0;
}

InfraredDust infraredDust(const Image& pixels, const Image& infrared, std::stop_token stop) {
    InfraredDust out;
    if (infrared.empty() || infrared.size() != pixels.size()) {
        out.useless = "the scan has no infrared plane";
        return out;
    }
    std::vector<cv::Mat> planes;
    cv::split(pixels, planes);
    std::vector<ImageF> colours;
    for (const auto& p : planes) colours.push_back(logOf(p));
    ImageF light = logOf(infrared);
    if (stop.stop_requested()) return out;
    const ImageF plane = light;
    out.shift = shiftOf(colours[colours.size() / 2], plane);
    light = moved(plane, out.shift);
    const double focus = focusOf(colours, light);
    for (auto& c : colours) blur(c, focus);
    Weights overall;
    for (int round = 0; round < 3; ++round) {
        if (stop.stop_requested()) return {};
        overall = fitTile(colours, light, Rect({0, 0}, light.size()), overall, round > 0);
        if (round < 2) {
            out.shift -= left(colours, light, overall);
            light = moved(plane, out.shift);
        }
    }
    if (shareShown(colours, overall) > kSilver) {
        out.useless = "the film itself holds infrared back (silver film)";
        return out;
    }
    ImageF expected(light.size(), CV_32F);
    const int across = (light.cols + kTile - 1) / kTile, down = (light.rows + kTile - 1) / kTile;
    forEach(
        across * down,
        [&](int t) {
            const Rect tile = Rect(t % across * kTile, t / across * kTile, kTile, kTile) &
                              Rect({0, 0}, light.size());
            const Weights w =
                fitTile(colours, light, grown(tile, kTile / 2, light.size()), overall, true);
            for (int y = tile.y; y < tile.br().y; ++y)
                for (int x = tile.x; x < tile.br().x; ++x)
                    expected.at<float>(y, x) = float(w.dot(basisOf(colours, x, y)));
        },
        stop);
    if (stop.stop_requested()) return {};
    cv::exp(light - expected, out.depth);
    out.depth = 1 - out.depth;
    colours.clear();
    out.noise = noiseOf(out.depth, expected);
    return out;
}

}  // namespace gq::film
