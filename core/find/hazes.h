#pragma once
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// Large hazy shadows and streaks of marks on a lens or filter, one finding each: soft, neutral
/// dimmings, at least 4 % of the picture wide, of surroundings that are calm but for a surface of
/// the second degree. One frame cannot tell them from a cloud, so they are listed below the default
/// line; a series can. Cost: halving the picture, and medians of one 300 px wide.
[[nodiscard]] std::vector<Finding> hazes(const Scales& picture, std::stop_token stop);

/// True if a finding is such a mark, and no grain of dust.
[[nodiscard]] bool isHaze(const Finding& finding, const Size& picture);

/// What one frame tells of broad dimming, 150 to 300 px wide.
struct BroadView {
    ImageF dimmed;    ///< log light held back against a wide background
    ImageF restless;  ///< mean size of that around
};
[[nodiscard]] BroadView broadViewOf(const Scales& picture);
/// Means of a view at a place of the whole picture.
struct BroadlyAt {
    float dimmed = 0, restless = 0;
};
[[nodiscard]] BroadlyAt at(const BroadView& view, const Region& region, const Size& picture);
/// Marks that views of one sensor share: at least three, all of one size, which `sensor` is reduced
/// to. Each place takes the median of the views, weighted by how calm they are there, so clouds of
/// single frames fall out; what stands out of the whole is a mark, however faint in each frame, if
/// hardly anything stands out as much when the views are moved against each other.
[[nodiscard]] std::vector<Finding> sharedHazes(const std::vector<BroadView>& views,
                                               const Size& sensor);

}  // namespace gq::find
