#include "core/find/stains.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/believed.h"
#include "core/find/broad_marks.h"
#include "core/find/stain_outline.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr float kInk = 1.0f;       ///< log units; a stain lets the picture through
constexpr float kOneTone = 0.12f;  ///< usual departure over which a print is one in full colour
/// The forest is surer of the pictures it was trained on than of others: log odds taken off.
constexpr float kUncertain = 0.6f;
constexpr int kAround = 8;  ///< px of the coarse view, the surroundings

/// log(blue / red), log(green / red) and log red of every pixel.
struct Tints {
    ImageF blue, green, tone;

    explicit Tints(const Image& p)
        : blue(p.size(), CV_32F), green(p.size(), CV_32F), tone(p.size(), CV_32F) {
        const auto log = [](ushort v) { return std::log(float(v) / 65535 + 0.02f); };
        for (int y = 0; y < p.rows; ++y)
            for (int x = 0; x < p.cols; ++x) {
                const auto& v = p.at<cv::Vec<ushort, 3>>(y, x);
                const float red = tone.at<float>(y, x) = log(v[0]);
                blue.at<float>(y, x) = log(v[2]) - red;
                green.at<float>(y, x) = log(v[1]) - red;
            }
        for (ImageF* plane : {&blue, &green, &tone}) cv::GaussianBlur(*plane, *plane, {}, 1.0);
    }
};

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
        curve[i] = last = lists[i].size() > 50 ? medianOf(std::move(lists[i])) : last;
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
    spread = medianOf(std::move(sizes)) * 1.4826f;
    return out;
}

/// A candidate's surroundings, without itself, in the box of `wide`.
Mask around(const Region& region, const Region& wide) {
    Mask out = wide.mask.clone();
    out(Rect(region.box.tl() - wide.box.tl(), region.box.size())).setTo(0, region.mask);
    return out;
}

/// How much darker a place is than its close surroundings, log units of tone.
float darkens(const ImageF& tone, const Region& region) {
    const Region wide = grown(region, 4, tone.size());
    return float(cv::mean(tone(wide.box), around(region, wide))[0] -
                 cv::mean(tone(region.box), region.mask)[0]);
}

std::vector<float> valuesOf(const ImageF& plane) {
    return {plane.begin<float>(), plane.end<float>()};
}

struct Moments {
    float mean, deviation;
};

Moments moments(const ImageF& plane, const Region& where) {
    cv::Scalar mean, deviation;
    cv::meanStdDev(plane(where.box), mean, deviation, where.mask);
    return {float(mean[0]), float(deviation[0])};
}

/// Of two planes where `wide` is, -1..1.
float correlation(const ImageF& a, const ImageF& b, const Region& wide) {
    const Moments ofA = moments(a, wide), ofB = moments(b, wide);
    const double both = cv::mean(a(wide.box).mul(b(wide.box)), wide.mask)[0];
    return (float(both) - ofA.mean * ofB.mean) / std::max(ofA.deviation * ofB.deviation, 1e-6f);
}

/// What all candidates of a picture share.
struct Ground {
    Tints tints;
    ImageF yellow;  ///< see departure()
    float spread = 0, least = 0;

    explicit Ground(const Image& pixels) : tints(pixels) {
        yellow = departure(tints.blue, tints.tone, spread);
        least = std::max(0.09f, 3 * spread);
    }

    /// The features that are the candidate's own.
    void describe(const Region& region, float depth, float* f) const {
        const Size size = yellow.size();
        const Region wide = grown(region, kAround, size), ring{wide.box, around(region, wide)};
        const Moments inside = moments(yellow, region), outside = moments(yellow, ring);
        const auto step = [&](const ImageF& plane) {
            return moments(plane, ring).mean - moments(plane, region).mean;
        };
        const float blue = step(tints.blue);
        f[TintDepth] = depth;
        f[TintOverLeast] = std::log(depth / least);
        f[TintOverSpread] = depth / std::max(spread, 0.004f);
        f[TintInside] = inside.deviation / depth;
        f[TintAround] = outside.deviation / depth;
        f[TintStep] = (inside.mean - outside.mean) / depth;
        f[GreenStep] = std::clamp(step(tints.green) / (std::abs(blue) + 0.02f), -3.0f, 3.0f);
        f[TintTone] = correlation(yellow, tints.tone, wide);
        f[StainTone] = moments(tints.tone, region).mean;
        f[StainDarkens] = darkens(tints.tone, region);
        f[StainArea] = std::log(float(region.area()) / float(size.area()));
        f[StainFill] = float(region.area()) / float(region.box.area());
        const Outline outline(region, size);
        const Edge edge = outline.edge(yellow);
        const Crossing crossing = outline.crossing(yellow, tints.tone, depth);
        f[StainRim] = edge.rim;
        f[StainWidth] = edge.width;
        f[CrossingShare] = crossing.share;
        f[CrossingTone] = crossing.tone;
        f[CrossingUnlike] = crossing.unlike;
        const Rect inner(1, 1, size.width - 2, size.height - 2);
        f[StainAtEdge] = (region.box & inner) == region.box ? 0 : 1;
    }
};

}  // namespace

TintedPlaces tintedPlaces(const Scales& picture, std::stop_token stop) {
    TintedPlaces out;
    if (picture.at(0).channels() != 3) return out;
    const Coarse at = coarse(picture, 700);
    out.level = at.level;
    const Ground ground(at.pixels);
    if (ground.spread > kOneTone || stop.stop_requested()) return out;
    const ImageF& yellow = ground.yellow;
    Mask mask = yellow > ground.least;
    const float share = float(cv::countNonZero(mask)) / float(mask.total());
    cv::morphologyEx(mask, mask, cv::MORPH_CLOSE,
                     cv::getStructuringElement(cv::MORPH_ELLIPSE, {5, 5}));
    for (auto piece : pieces(mask)) {
        if (stop.stop_requested()) return {};
        if (piece.area() < 10 || piece.area() > 0.3 * double(mask.total())) continue;
        piece = closed(piece);  // what a rim surrounds belongs to it
        if (darkens(ground.tints.tone, piece) > kInk) continue;  // something lying on the print
        const float depth = moments(yellow, piece).mean;
        if (depth <= 0) continue;  // it surrounds what is bluer by more
        Tinted place{piece, {}};
        ground.describe(piece, depth, place.features.data());
        out.all.push_back(std::move(place));
    }
    const float tail = quantile(valuesOf(yellow), 0.98) / std::max(ground.spread, 0.004f),
                own = medianOf(valuesOf(ground.tints.blue));
    for (auto& place : out.all) {
        place.features[TintSpread] = ground.spread;
        place.features[TintTail] = tail;
        place.features[TintOfPicture] = own;
        place.features[TintedOverall] = std::log(share + 1e-5f);
        place.features[CandidatesOverall] = std::log(float(out.all.size()));
    }
    return out;
}

std::vector<Finding> stains(const Scales& picture, float least, std::stop_token stop) {
    const TintedPlaces places = tintedPlaces(picture, stop);
    return believed(places.all, stainForest(), kUncertain, least, [&](const Tinted& place) {
        const auto& f = place.features;
        Finding out = markOf(place.region, places.level, picture.size(), Kind::Stain,
                             Polarity::Dark, f[TintDepth]);
        out.measures.noise = f[TintSpread];
        out.measures.peak = f[TintOverSpread];
        out.measures.rim = f[StainRim];
        out.measures.softness = std::ldexp(f[StainWidth], places.level);
        return out;
    });
}

}  // namespace gq::find
