#include "core/mend/sift.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr float kTexture = 5;    ///< deviations of its surroundings that a speck stands out by
constexpr float kOfPeak = 0.5f;  ///< of what a pixel departs by, that the thing it is part of does

/// Median over a window of `side` px; large ones at half the size, since they change slowly.
ImageF medianOf(const ImageF& tone, int side) {
    cv::Mat coded, small, out;
    tone.convertTo(coded, CV_8U, 255);
    if (side > 31) {
        cv::resize(coded, small, {}, 0.5, 0.5, cv::INTER_AREA);
        cv::medianBlur(small, small, (side / 2) | 1);
        cv::resize(small, coded, tone.size(), 0, 0, cv::INTER_LINEAR);
    } else {
        cv::medianBlur(coded, coded, side);
    }
    coded.convertTo(out, CV_32F, 1.0 / 255);
    return out;
}

/// How much departures vary near each place, whatever stands out of them: the deviation that their
/// median tells. At a quarter of the size, since it changes slowly.
ImageF spreadOf(const ImageF& departure, int side) {
    constexpr double kCoded = 4 * 255, kDeviation = 1.4826;
    cv::Mat coded, small;
    ImageF out;
    ImageF(cv::abs(departure)).convertTo(coded, CV_8U, kCoded);
    const Size quarter((coded.cols + 3) / 4, (coded.rows + 3) / 4);
    cv::resize(coded, small, quarter, 0, 0, cv::INTER_NEAREST);
    cv::medianBlur(small, small, std::max(3, side / 4) | 1);
    cv::resize(small, coded, departure.size(), 0, 0, cv::INTER_LINEAR);
    coded.convertTo(out, CV_32F, kDeviation / kCoded);
    return out;
}

/// Those pieces of `near` that are small, and belong to something small in `wide`: a rim of
/// something larger stands out from a near median only; from a wide one all of it does.
void takeSmall(const Mask& near, const Mask& wide, float largest, std::vector<Region>& out) {
    cv::Mat labels, stats, centres;
    cv::connectedComponentsWithStats(wide, labels, stats, centres, 8, CV_32S);
    for (auto& piece : pieces(near)) {
        const auto& b = piece.box;
        if (float(std::max(b.width, b.height)) > largest) continue;
        double whole = 0;  // number of the thing it belongs to
        cv::minMaxLoc(labels(b), nullptr, &whole, nullptr, nullptr, piece.mask);
        const int width = stats.at<int>(int(whole), cv::CC_STAT_WIDTH),
                  height = stats.at<int>(int(whole), cv::CC_STAT_HEIGHT);
        if (whole > 0 && float(std::max(width, height)) > 1.5f * largest + 2) continue;
        out.push_back(std::move(piece));
    }
}

}  // namespace

std::vector<Region> specks(const Excerpt& pixels, const Region& area, const Sifting& s) {
    const int side = std::max(3, 2 * int(std::ceil(s.largest)) + 1);
    const Rect box = grown(area.box, 2 * side, pixels.size());
    const ImageF tone = luma(pixels(box));
    Mask wanted(box.size(), CV_8U, cv::Scalar(0));
    area.mask.copyTo(wanted(Rect(area.box.tl() - box.tl(), area.box.size())));
    const ImageF near = tone - medianOf(tone, side), wide = tone - medianOf(tone, (3 * side) | 1);
    const ImageF least = cv::max(kTexture * spreadOf(near, 6 * side), s.contrast);
    std::vector<Region> out;
    for (const float sign : {1.0f, -1.0f}) {
        if (!(sign > 0 ? s.light : s.dark)) continue;
        const ImageF own = sign * near;
        takeSmall((own > least) & wanted,
                  ImageF(sign * wide) > ImageF(cv::max(least, kOfPeak * own)), s.largest, out);
    }
    for (auto& piece : out) {
        piece.box += box.tl();
        piece = grown(piece, 2, pixels.size());
    }
    return out;
}

}  // namespace gq::mend
