#pragma once
#include <vector>

#include "core/pixels/excerpt.h"

namespace gq {

/// 8-bit colour levels of a picture for the screen: level 0 full size, each next one half (2 x 2
/// area means), down to about 256 px.
struct Pyramid {
    std::vector<Image8> levels;  ///< CV_8UC3, red, green, blue

    [[nodiscard]] bool empty() const { return levels.empty(); }
    /// The coarsest level that still has at least one of its pixels per screen pixel at `zoom`.
    [[nodiscard]] int levelFor(double zoom) const;
};

/// All levels of a 16-bit picture. Threads: parallel inside.
[[nodiscard]] Pyramid makePyramid(const Image& pixels);

/// Brings every level up to date inside `changed` (full-size coordinates), in place.
void update(Pyramid& pyramid, const Excerpt& pixels, const Rect& changed);

/// Half size by 2 x 2 means (odd last row or column dropped); any depth and channels.
[[nodiscard]] cv::Mat halved(const cv::Mat& image);

}  // namespace gq
