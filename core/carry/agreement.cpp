#include "core/carry/agreement.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "core/pixels/parallel.h"
#include "core/pixels/quantile.h"

namespace gq::carry {
namespace {

constexpr float kLow = -2.0f, kHigh = 4.0f;  ///< bounds of one frame's say, noise units
constexpr float kCalmest = 0.004f;           ///< noise of a frame; less is rounding's luck
constexpr double kPeak = 4, kEdge = 2.5;     ///< least, of a place's peak and outline
// Weights that tell dust from chance best (logistic regression on 182 sets of 3 to 12 photographs
// without dust and 52 with), and how much is enough: 17 places of chance in 270 megapixels.
constexpr double kAlike = 0.5;  ///< of what frames share over what they differ by, its logarithm
constexpr double kShown = 0.8;  ///< of the root of the frames in which it shows
constexpr double kDeep = -0.2;  ///< of the logarithm of its depth, which texture has more of
constexpr double kEnough = 3.8;
constexpr float kSeen = 1.5f;                    ///< noise units in which a frame shows it
constexpr double kLeastDepth = 0.005;            ///< log light held back
constexpr int kApart = 29;                       ///< px between the offsets of frames
constexpr float kAsSure = 0.9f, kAsLong = 0.3f;  ///< of a flat place that moved frames show too
constexpr float kNone = 1e-6f;                   ///< weight of what no frame reaches
constexpr float kTail = 0.85f;                   ///< scores beyond fall off exponentially
constexpr double kFew = 4;                       ///< of them tell too little of how steeply

/// The score that chance exceeds `wanted` times in the mean, by the tail of what it did once.
float chanceScore(const std::vector<Agreement::Place>& chance, double wanted) {
    double count = 0, excess = 0;
    for (const auto& p : chance)
        if (p.score > kTail) ++count, excess += double(p.score - kTail);
    if (count < kFew) return 1;
    return std::max(1.0f, float(kTail + excess / count * std::log(count / wanted)));
}

/// True if a flat place lies as well where frames are moved along their rows: a horizon.
bool sameRows(const Agreement::Place& place, const Agreement::Place& moved) {
    const Rect &a = place.region.box, &b = moved.region.box;
    const int both = std::min(a.br().y, b.br().y) - std::max(a.y, b.y);
    return a.width > 2 * a.height && moved.score > kAsSure * place.score &&
           b.width > kAsLong * float(a.width) && 2 * both > std::min(a.height, b.height);
}

}  // namespace

void Agreement::Sums::add(const ImageF& z, const ImageF& noise, const ImageF& news,
                          const Point& offset) {
    if (held.empty())
        for (auto* plane : {&held, &weight, &squares, &seen})
            *plane = ImageF::zeros(z.size(), CV_32F);
    if (silent.empty() && !news.empty()) silent = ImageF::zeros(z.size(), CV_32F);
    ++frames;
    const int width = z.cols, height = z.rows;
    forRows(height, [&](int y) {
        const int from = (y + offset.y) % height;
        const auto *zp = z.ptr<float>(from), *np = noise.ptr<float>(from / 2),
                   *mp = news.empty() ? nullptr : news.ptr<float>(from);
        ImageF sureness(1, width, CV_32F);  // one over the noise
        auto* sure = sureness.ptr<float>();
        for (int x = 0; x < width; ++x) sure[x] = 1 / std::max(np[x / 2], kCalmest);
        auto *h = held.ptr<float>(y), *w = weight.ptr<float>(y), *q = squares.ptr<float>(y),
             *n = seen.ptr<float>(y), *t = mp ? silent.ptr<float>(y) : nullptr;
        const auto stretch = [&](int begin, int end, int shift, auto told) {
#pragma omp simd
            for (int x = begin; x < end; ++x) {
                const float m = told(x), s = sure[x + shift], v = zp[x + shift];
                const float said = std::min(std::max(v, kLow), kHigh);
                h[x] += m * said * s;
                w[x] += m * s * s;
                q[x] += m * said * said;
                n[x] += v > kSeen ? m : 0.0f;
            }
        };
        const auto row = [&](int begin, int end, int shift) {
            if (!mp) return stretch(begin, end, shift, [](int) { return 1.0f; });
            stretch(begin, end, shift, [&](int x) { return mp[x + shift]; });
            for (int x = begin; x < end; ++x) t[x] += 1 - mp[x + shift];
        };
        const int shift = offset.x % width;
        row(0, width - shift, shift);
        row(width - shift, width, shift - width);
    });
}

std::vector<Agreement::Place> Agreement::Sums::places() const {
    ImageF agreement, spread;
    const ImageF weights = cv::max(weight, kNone);
    cv::sqrt(weights, agreement);
    cv::GaussianBlur(ImageF(held / agreement), agreement, {5, 5}, 0.8);
    const ImageF mean = held / weights;
    cv::sqrt(cv::max(ImageF(squares / weights - mean.mul(mean)), 1e-9f), spread);
    std::vector<Place> out;
    for (auto& piece : pieces(Mask(agreement > kEdge))) {
        double peak = 0;
        cv::minMaxLoc(agreement(piece.box), nullptr, &peak, nullptr, nullptr, piece.mask);
        // Trimmed to its own upper part, so that a weak halo does not widen it.
        piece = regionOf(Mask((agreement(piece.box) > std::max(kEdge, peak / 3)) & piece.mask),
                         piece.box.tl());
        const float shows = float(cv::mean(seen(piece.box), piece.mask)[0]);
        const double depth = cv::mean(mean(piece.box), piece.mask)[0];
        const double shared = depth / cv::mean(spread(piece.box), piece.mask)[0];
        float told = float(frames);
        if (!silent.empty()) told -= float(cv::mean(silent(piece.box), piece.mask)[0]);
        const bool several = told >= kFewest && shows >= std::max(2.0f, 0.2f * told);
        if (depth < kLeastDepth || !several || piece.area() < 3 || peak < kPeak) continue;
        const double score = (std::log(peak) + kAlike * std::log(std::max(shared, 0.05)) +
                              kShown * std::sqrt(shows) + kDeep * std::log(depth)) /
                             kEnough;
        out.push_back({std::move(piece), float(peak), float(depth), shows, float(score)});
    }
    return out;
}

void Agreement::add(const ImageF& z, const ImageF& noise, const ImageF& news) {
    m_asSeen.add(z, noise, news, {});
    m_moved.add(z, noise, news, Point(m_moved.frames * kApart, 0));
}

Agreement::Weighed Agreement::weighed(const Region& region) const {
    constexpr int kPlaces = 48, kEnough = 16;
    constexpr double kTurn = 2.39996;  // golden angle, which spreads places evenly
    const Rect whole({0, 0}, m_asSeen.held.size());
    if (region.empty() || (region.box & whole) != region.box) return {};
    const auto at = [&](const Rect& box) -> std::optional<float> {
        const double weight = cv::mean(m_asSeen.weight(box), region.mask)[0];
        if (weight <= double(kNone)) return std::nullopt;
        return float(cv::mean(m_asSeen.held(box), region.mask)[0] / weight);
    };
    const auto here = at(region.box);
    if (!here) return {};
    const double size = std::hypot(region.box.width, region.box.height) + 6;
    std::vector<float> around;
    for (int i = 0; i < kPlaces; ++i) {
        const double far = size * (1.2 + 3.0 * i / kPlaces);
        const Rect box = region.box + Point(int(std::lround(far * std::cos(kTurn * i))),
                                            int(std::lround(far * std::sin(kTurn * i))));
        if ((box & whole) != box) continue;
        if (const auto there = at(box)) around.push_back(*there);
    }
    if (around.size() < kEnough) return {};
    const float usual = medianOf(around);
    for (auto& v : around) v = std::abs(v - usual);
    return {*here - usual, std::max(1.4826f * medianOf(around), 1e-4f)};
}

std::vector<Agreement::Place> Agreement::places(double falsePlaces) const {
    auto out = m_asSeen.places();
    const auto chance = m_moved.places();
    const float enough = chanceScore(chance, falsePlaces);
    std::erase_if(out, [&](const Place& p) {
        return p.score <= enough ||
               std::ranges::any_of(chance, [&](const auto& moved) { return sameRows(p, moved); });
    });
    return out;
}

}  // namespace gq::carry
