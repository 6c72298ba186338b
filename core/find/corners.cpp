#include "core/find/corners.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/pixels/color.h"

namespace gq::find {
namespace {

constexpr int kLargest = 72;  ///< px a side of a finding's box
constexpr int kBeside = 2;    ///< px from its box to the strips that are looked at, and their width
constexpr double kLeast = 0.2;   ///< of the range of tones, between a corner and what is beyond
constexpr double kLike = 0.25;   ///< of that, by which its own side differs at most
constexpr double kBeyond = 0.6;  ///< of that, by which both sides beyond differ at least

bool isCorner(const Finding& f, const Image& pixels) {
    const Rect box = f.region.box,
               around = box + Size(4 * kBeside, 4 * kBeside) - Point(2 * kBeside, 2 * kBeside);
    const bool inside = (around & Rect({0, 0}, pixels.size())) == around;
    if (!inside || std::max(box.width, box.height) > kLargest) return false;
    const ImageF tone = luma(pixels(around));
    const Rect own({2 * kBeside, 2 * kBeside}, box.size());
    const double usual = cv::mean(tone(own), f.region.mask)[0],
                 sign = f.polarity == Polarity::Dark ? 1 : -1;
    const auto beyond = [&](const Rect& strip) {
        return sign * (cv::mean(tone(strip))[0] - usual);
    };
    const std::array<double, 4> sides{beyond({0, own.y, kBeside, own.height}),
                                      beyond({own.x, 0, own.width, kBeside}),
                                      beyond({own.br().x + kBeside, own.y, kBeside, own.height}),
                                      beyond({own.x, own.br().y + kBeside, own.width, kBeside})};
    const double contrast = std::ranges::max(sides);
    if (contrast < kLeast) return false;
    for (size_t i = 0; i < sides.size(); ++i) {  // two neighbours, from each of them on
        const auto side = [&](size_t k) { return sides[(i + k) % sides.size()] / contrast; };
        if (side(0) > kBeyond && side(1) > kBeyond && std::abs(side(2)) < kLike &&
            std::abs(side(3)) < kLike)
            return true;
    }
    return false;
}

}  // namespace

void leaveOutCorners(std::vector<Finding>& all, const Image& pixels) {
    std::erase_if(all, [&](const Finding& f) { return isCorner(f, pixels); });
}

}  // namespace gq::find
