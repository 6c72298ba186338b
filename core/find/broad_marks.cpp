#include "core/find/broad_marks.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/survey.h"
#include "core/pixels/color.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

/// A picture small enough to see broad marks in, and how often it was halved.
struct Coarse {
    Image pixels;
    int level = 0;
};

Coarse coarse(const Image& pixels, int side) {
    Coarse out{pixels, 0};
    for (; std::max(out.pixels.cols, out.pixels.rows) >= 2 * side; ++out.level)
        out.pixels = halved(out.pixels);
    return out;
}

/// log(blue / red) and log red of every pixel.
void tintOf(const Image& p, ImageF& tint, ImageF& tone) {
    tint.create(p.size(), CV_32F);
    tone.create(p.size(), CV_32F);
    for (int y = 0; y < p.rows; ++y)
        for (int x = 0; x < p.cols; ++x) {
            const auto& v = p.at<cv::Vec<ushort, 3>>(y, x);
            tone.at<float>(y, x) = std::log(float(v[0]) / 65535 + 0.02f);
            tint.at<float>(y, x) = std::log(float(v[2]) / 65535 + 0.02f) - tone.at<float>(y, x);
        }
}

float medianOf(std::vector<float>& v) {
    if (v.empty()) return 0;
    const auto middle = v.begin() + ptrdiff_t(v.size() / 2);
    std::nth_element(v.begin(), middle, v.end());
    return *middle;
}

/// How much yellower each pixel is than its tone asks for; `spread` is the usual departure.
ImageF departure(const ImageF& tint, const ImageF& tone, float& spread) {
    constexpr int kBins = 40;
    const auto place = [](float t) {
        return std::clamp((t + 3.9f) * (kBins / 4.0f), 0.0f, kBins - 1.01f);
    };
    std::array<std::vector<float>, kBins> lists;
    for (int y = 0; y < tint.rows; ++y)
        for (int x = 0; x < tint.cols; ++x)
            lists[size_t(place(tone.at<float>(y, x)) + 0.5f)].push_back(tint.at<float>(y, x));
    std::array<float, kBins> curve{};
    float last = 0;  // where a tone is rare the curve goes on as it was
    for (size_t i = 0; i < kBins; ++i)
        curve[i] = last = lists[i].size() > 50 ? medianOf(lists[i]) : last;
    ImageF out(tint.size(), CV_32F);
    std::vector<float> sizes;
    for (int y = 0; y < tint.rows; ++y)
        for (int x = 0; x < tint.cols; ++x) {
            const float at = place(tone.at<float>(y, x));
            const auto i = size_t(at);
            const float expected = curve[i] + (curve[i + 1] - curve[i]) * (at - float(i));
            out.at<float>(y, x) = expected - tint.at<float>(y, x);
            sizes.push_back(std::abs(out.at<float>(y, x)));
        }
    spread = medianOf(sizes) * 1.4826f;
    return out;
}

bool touchesEdges(const Rect& box, const Size& size, int& edges) {
    edges = (box.x <= 1) + (box.y <= 1) + (box.br().x >= size.width - 1) +
            (box.br().y >= size.height - 1);
    return edges > 0;
}

}  // namespace

namespace {

constexpr float kInk = 1.0f;  ///< log units; a stain lets the picture through

/// How much darker a place is than its close surroundings, log units of tone.
float darkens(const ImageF& tone, const Region& region) {
    const Region wide = grown(region, 4, tone.size());
    Mask rim = wide.mask.clone();
    rim(Rect(region.box.tl() - wide.box.tl(), region.box.size())).setTo(0, region.mask);
    return float(cv::mean(tone(wide.box), rim)[0] - cv::mean(tone(region.box), region.mask)[0]);
}

}  // namespace

Finding markOf(const Region& small, int level, const Size& picture, Kind kind, Polarity polarity,
               float contrast) {
    Finding f;
    f.kind = kind;
    f.polarity = polarity;
    f.region = fullSize(small, level, picture);
    f.measures.contrast = contrast;
    f.measures.size = std::sqrt(float(f.region.area()) * 1.273f);
    f.measures.length = float(std::max(f.region.box.width, f.region.box.height));
    f.measures.width = float(std::min(f.region.box.width, f.region.box.height));
    return f;
}

std::vector<Finding> stains(const Image& pixels, std::stop_token stop) {
    if (pixels.channels() != 3) return {};
    const Coarse at = coarse(pixels, 700);
    ImageF tint, tone;
    tintOf(at.pixels, tint, tone);
    cv::GaussianBlur(tint, tint, {}, 1.0);
    cv::GaussianBlur(tone, tone, {}, 1.0);
    float spread = 0;
    const ImageF yellow = departure(tint, tone, spread);
    if (spread > 0.045f || stop.stop_requested()) return {};  // a print in full colour
    const float least = std::max(0.12f, 4 * spread);
    std::vector<Finding> out;
    Mask mask = yellow > least;
    cv::morphologyEx(mask, mask, cv::MORPH_CLOSE,
                     cv::getStructuringElement(cv::MORPH_ELLIPSE, {5, 5}));
    const double all = double(mask.total());
    for (auto piece : pieces(mask)) {
        if (piece.area() < 10 || piece.area() > 0.3 * all) continue;
        piece = closed(piece);
        if (darkens(tone, piece) > kInk) continue;  // that is something lying on the print
        const float depth = float(cv::mean(yellow(piece.box), piece.mask)[0]);
        auto f = markOf(piece, at.level, pixels.size(), Kind::Stain, Polarity::Dark, depth);
        f.measures.noise = spread;
        f.measures.peak = depth / std::max(spread, 0.004f);
        const float filled = float(piece.area()) / float(piece.box.area());
        f.confidence = 1 / (1 + std::exp(-(6 * std::log(depth / least) + 8 * (filled - 0.45f))));
        out.push_back(std::move(f));
    }
    return out;
}

std::vector<Finding> losses(const Image& pixels, std::stop_token stop) {
    const Coarse at = coarse(pixels, 900);
    const ImageF plane = luma(at.pixels);
    ImageF mean, square;
    cv::blur(plane, mean, {5, 5});
    cv::blur(ImageF(plane.mul(plane)), square, {5, 5});
    Mask flat(plane.size(), CV_8U);
    for (int y = 0; y < plane.rows; ++y)
        for (int x = 0; x < plane.cols; ++x) {
            const float m = mean.at<float>(y, x);
            const float deviation = std::sqrt(std::max(square.at<float>(y, x) - m * m, 0.0f));
            flat.at<uchar>(y, x) = m > 0.88f && deviation < 0.0035f ? 255 : 0;
        }
    if (stop.stop_requested()) return {};
    std::vector<Finding> out;
    const double all = double(flat.total());
    for (const auto& piece : pieces(flat)) {
        int edges = 0;
        if (piece.area() < 0.0006 * all || piece.area() > 0.25 * all ||
            !touchesEdges(piece.box, flat.size(), edges))
            continue;
        // The tear is an edge: beyond it all around there is something darker.
        const Region wide = grown(grown(piece, 2, flat.size()), 5, flat.size());
        Mask rim = wide.mask.clone();
        const Region near = grown(piece, 3, flat.size());
        rim(Rect(near.box.tl() - wide.box.tl(), near.box.size())).setTo(0, near.mask);
        cv::Scalar around, spread;
        cv::meanStdDev(plane(wide.box), around, spread, rim);
        const float inside = float(cv::mean(plane(piece.box), piece.mask)[0]);
        const float step = inside - float(around[0]);
        if (step < 0.03f) continue;
        auto f = markOf(grown(piece, 2, flat.size()), at.level, pixels.size(), Kind::Loss,
                        Polarity::Light, step);
        f.measures.ring = float(spread[0]) / step;
        f.confidence = std::clamp(0.25f + 2.0f * step + 0.25f * float(edges - 1), 0.0f, 0.95f);
        out.push_back(std::move(f));
    }
    return out;
}

}  // namespace gq::find
