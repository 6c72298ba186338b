#include "core/find/bared_paper.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr float kBared = 0.08f;  ///< tone of bared paper against the print, at least
constexpr float kGrained = 1.5f, kFibre = 0.003f;  ///< its deviation by the print's grain, at most
constexpr double kMost = 0.04;                     ///< of the picture's area
constexpr double kOutshone = 0.03;                 ///< of the surroundings
constexpr double kOwnTone = 0.25;                  ///< of all that has a bared piece's tone

/// The deviation of bared paper, at most, in a print whose calmest parts deviate by `grain`.
float baredDeviation(float grain) {
    return kGrained * grain + kFibre;
}

/// Tones of flat places of the upper half that several of them share.
std::vector<float> lightTones(const ImageF& mean, const Mask& flat) {
    constexpr int kBins = 100;
    std::array<int, kBins> bins{};
    for (int y = 0; y < mean.rows; ++y)
        for (int x = 0; x < mean.cols; ++x)
            if (flat.at<uchar>(y, x))
                ++bins[size_t(std::clamp(mean.at<float>(y, x) * kBins, 0.0f, kBins - 1.0f))];
    std::vector<float> out;
    const double least = kLeastLoss * double(mean.total());
    for (size_t i = kBins / 2; i < kBins; ++i) {
        const int before = bins[i - 1], after = i + 1 < kBins ? bins[i + 1] : 0;
        if (bins[i] + before + after > least && bins[i] >= before && bins[i] > after)
            out.push_back((float(i) + 0.5f) / kBins);
    }
    return out;
}

/// True if there is something lighter within a piece's size around it, as beside a margin that a
/// stain has darkened.
bool isOutshone(const ImageF& mean, const Region& piece, float tone) {
    const int far = (piece.box.width + piece.box.height) / 2;
    const Rect around = Rect(piece.box.x - far, piece.box.y - far, piece.box.width + 2 * far,
                             piece.box.height + 2 * far) &
                        Rect({0, 0}, mean.size());
    return cv::countNonZero(mean(around) > tone + kSameTone) > kOutshone * around.area();
}

}  // namespace

std::vector<Finding> baredPaper(const ImageF& plane, const Calm& calm, const Coarse& at,
                                const Size& picture, std::stop_token stop) {
    std::vector<Finding> out;
    const cv::Mat_<float> values = calm.deviation;
    const std::vector<float> all(values.begin(), values.end());
    const Mask flat = calm.deviation < baredDeviation(quantile(all, 0.05));
    const Rect inner(3, 3, flat.cols - 6, flat.rows - 6);
    const double total = double(flat.total());
    for (const float tone : lightTones(calm.mean, flat)) {
        if (stop.stop_requested()) return out;
        const Mask same = (cv::abs(calm.mean - tone) < kSameTone) & flat;
        Mask opened;
        cv::morphologyEx(same, opened, cv::MORPH_OPEN,
                         cv::getStructuringElement(cv::MORPH_ELLIPSE, {7, 7}));
        const int everywhere = cv::countNonZero(same);
        for (const auto& found : pieces(opened)) {
            const Region piece = closed(found);
            if (piece.area() < kLeastLoss * total || piece.area() > kMost * total ||
                (piece.box & inner) != piece.box || piece.area() < kOwnTone * everywhere ||
                isClipped(tone, piece.area(), everywhere - piece.area()))
                continue;
            const auto [thin, wide] = std::minmax(piece.box.width, piece.box.height);
            if (thin < kSliver * wide || straightCut(piece) > kCut ||
                isOutshone(calm.mean, piece, tone))
                continue;
            const Region rim = beyond(grown(piece, 2, flat.size()), same);
            const int points = rim.area();
            const Mask darker = (tone - plane(rim.box) > kBared) & rim.mask;
            if (points == 0 || cv::countNonZero(darker) < kTorn * points) continue;
            cv::Scalar around, spread;
            cv::meanStdDev(plane(rim.box), around, spread, rim.mask);
            const float step = tone - float(around[0]);
            auto f =
                lossOf(grown(piece, 1, flat.size()), calm, step, float(spread[0]), at, picture);
            f.confidence = std::min(0.5f + step, 0.9f);
            out.push_back(std::move(f));
        }
    }
    return out;
}

void nameLosses(std::vector<Finding>& found, const Scales& picture, std::stop_token stop) {
    std::vector<Finding*> large;
    for (auto& f : found)
        if (f.kind == Kind::Speck && f.measures.contrast > kBared &&
            f.region.area() > kLeastLoss * picture.size().area())
            large.push_back(&f);
    if (large.empty()) return;
    const Coarse at = coarse(picture, 900);
    const ImageF deviation = Calm(luma(at.pixels)).deviation;
    if (stop.stop_requested()) return;
    const Rect whole({0, 0}, deviation.size());
    Mask covered(deviation.size(), CV_8U, cv::Scalar(0));
    std::vector<Region> small;
    for (const auto* f : large) {
        small.push_back(reduced(f->region, at.level));
        const Rect box = small.back().box & whole;
        covered(box).setTo(255,
                           small.back().mask(Rect(box.tl() - small.back().box.tl(), box.size())));
    }
    const Mask none(deviation.size(), CV_8U, cv::Scalar(0));
    const float grain = quantile(Deviations(deviation, none, near(covered)).outside, 0.05);
    for (size_t i = 0; i < large.size() && !stop.stop_requested(); ++i) {
        const auto& [box, mask] = small[i];
        Mask inside;  // the deviation looks two pixels around
        cv::erode(mask == 255, inside, cv::Mat::ones(5, 5, CV_8U), {-1, -1}, 1, cv::BORDER_CONSTANT,
                  cv::Scalar(0));
        const Rect in = box & whole;
        inside = inside(Rect(in.tl() - box.tl(), in.size()));
        auto own = Deviations(deviation(in), inside, inside).inside;
        if (!own.empty() && medianOf(std::move(own)) < baredDeviation(grain))
            large[i]->kind = Kind::Loss;
    }
}

}  // namespace gq::find
