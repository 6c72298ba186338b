#include "core/mend/repeat.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr int kLeast = 20, kSight = 6, kFarthest = 400;
constexpr double kDetail = 0.008;   ///< deviation, 0..1, under which there is nothing to know again
constexpr double kOverlap = 0.7;    ///< of a side; nearer places are the region itself
constexpr double kStandsOut = 0.9;  ///< of the best likeness; the second best must be below

/// Normalised cross-correlation of `piece` (where `weight` is set) with every place of `detail`;
/// 0 where the piece lies over `own`, and where there is hardly any detail.
cv::Mat likeness(const ImageF& detail, const ImageF& piece, const ImageF& weight, const Rect& own) {
    cv::Mat product, energy;
    cv::matchTemplate(detail, piece, product, cv::TM_CCORR);
    cv::matchTemplate(detail.mul(detail), weight, energy, cv::TM_CCORR);
    const double mine = piece.dot(piece);
    cv::Mat out(product.size(), CV_32F, cv::Scalar(0));
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const double theirs = energy.at<float>(y, x);
            const bool itself = std::abs(x - own.x) < kOverlap * own.width &&
                                std::abs(y - own.y) < kOverlap * own.height;
            if (!itself && theirs > 0.1 * mine)
                out.at<float>(y, x) = float(product.at<float>(y, x) / std::sqrt(mine * theirs));
        }
    return out;
}

}  // namespace

int sightOf(const Rect& place) {
    return std::min(kSight * std::max(place.width, place.height), kFarthest);
}

float likenessNearby(const Excerpt& pixels, const Region& region) {
    const int longer = std::max(region.box.width, region.box.height);
    if (longer < kLeast) return 0;
    const Rect box = grown(region.box, sightOf(region.box), pixels.size());
    ImageF tone = luma(pixels(box)), soft, weight;
    cv::GaussianBlur(tone, soft, {}, 3);
    const ImageF detail = tone - soft;
    region.mask.convertTo(weight, CV_32F, 1.0 / 255);
    const Rect own(region.box.tl() - box.tl(), region.box.size());
    const ImageF piece = detail(own).mul(weight);
    if (piece.dot(piece) < kDetail * kDetail * region.area()) return 0;
    cv::Mat alike = likeness(detail, piece, weight, own);
    double best = 0, second = 0;
    Point at;
    cv::minMaxLoc(alike, nullptr, &best, nullptr, &at);
    const int near = std::max(6, longer / 3);
    alike(grown(Rect(at, Size(1, 1)), near, alike.size())).setTo(0);
    cv::minMaxLoc(alike, nullptr, &second);
    return second < kStandsOut * best ? float(best) : 0;
}

}  // namespace gq::mend
