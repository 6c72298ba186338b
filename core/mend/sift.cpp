#include "core/mend/sift.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

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

Mask standingOut(const ImageF& tone, int side, const Sifting& s) {
    const ImageF departure = tone - medianOf(tone, side | 1);
    Mask out(tone.size(), CV_8U, cv::Scalar(0));
    if (s.light) out |= departure > s.contrast;
    if (s.dark) out |= departure < -s.contrast;
    return out;
}

}  // namespace

std::vector<Region> specks(const Excerpt& pixels, const Region& area, const Sifting& s) {
    const int side = std::max(3, 2 * int(std::ceil(s.largest)) + 1);
    const Rect box = grown(area.box, 2 * side, pixels.size());
    const ImageF tone = luma(pixels(box));
    Mask wanted(box.size(), CV_8U, cv::Scalar(0));
    area.mask.copyTo(wanted(Rect(area.box.tl() - box.tl(), area.box.size())));
    // A rim of something larger stands out from a near median only; from a wide one all of it does.
    const Mask near = standingOut(tone, side, s), wide = standingOut(tone, 3 * side, s);
    cv::Mat labels, stats, centres;
    cv::connectedComponentsWithStats(wide, labels, stats, centres, 8, CV_32S);
    std::vector<Region> out;
    for (auto& piece : pieces(near & wanted)) {
        const auto& b = piece.box;
        if (float(std::max(b.width, b.height)) > s.largest) continue;
        double whole = 0;  // number of the thing it belongs to
        cv::minMaxLoc(labels(b), nullptr, &whole, nullptr, nullptr, piece.mask);
        const int width = stats.at<int>(int(whole), cv::CC_STAT_WIDTH),
                  height = stats.at<int>(int(whole), cv::CC_STAT_HEIGHT);
        if (whole > 0 && float(std::max(width, height)) > 1.5f * s.largest + 2) continue;
        piece.box += box.tl();
        out.push_back(grown(piece, 2, pixels.size()));
    }
    return out;
}

}  // namespace gq::mend
