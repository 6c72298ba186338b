#pragma once
#include <stop_token>

#include "core/carry/chart.h"

namespace gq::carry {

/// A frame's findings in the light of its series: those at a place of the chart become surer and
/// are tied to it; those elsewhere, which no other frame shares, less sure. Places of the chart
/// where nothing was found are added if the shadow that is known there shows. If none is known, or
/// it cannot be divided out, the ground must be darker there than around; where it is so busy that
/// a shadow as deep as the chart tells would not show, they come below the default line.
/// `pixels` are the frame's own. Threads: re-entrant. Frames of another camera come back unchanged.
[[nodiscard]] series::Frame confirmed(const series::Frame& frame, const Image& pixels,
                                      const DustChart& chart, series::Id& nextId,
                                      std::stop_token stop = {});

}  // namespace gq::carry
