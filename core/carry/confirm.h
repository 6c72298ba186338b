#pragma once
#include <stop_token>

#include "core/carry/chart.h"

namespace gq::carry {

/// A frame's findings in the light of its series: those at a place of the chart become surer and
/// are tied to it; those elsewhere, which no other frame shares, less sure; places of the chart
/// where nothing was found but the shadow shows are added: below the default line where the ground
/// is so busy that a shadow as deep as the chart tells would not, unless the frame is the
/// `reference`, since what is not mended there is not carried to the others.
/// `pixels` are the frame's own. Threads: re-entrant. Frames of another camera come back unchanged.
[[nodiscard]] series::Frame confirmed(const series::Frame& frame, const Image& pixels,
                                      const DustChart& chart, series::Id& nextId,
                                      bool reference = false, std::stop_token stop = {});

}  // namespace gq::carry
