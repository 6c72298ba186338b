#pragma once
#include <stop_token>
#include <vector>

#include "core/carry/chart.h"
#include "core/pixels/parallel.h"

namespace gq::render {

/// The frames of one set (`Frame::set`), searched already, with what they show above the line
/// mended. In a bracket or focus stack what any of them shows is mended in all, at the same place
/// from the same source, so that what they make together bears no spot twice. In a panorama each
/// frame is mended by itself, with the shadows that a chart of its sensor tells of divided out.
/// Mends that they have stay. Threads: parallel inside. Errors: those of reading a frame, Refused
/// (a bracket of two cameras), Cancelled.
[[nodiscard]] Result<series::Series> mendedSet(const series::Series& set,
                                               const std::vector<carry::DustChart>& charts,
                                               const Progress& progress = {},
                                               std::stop_token stop = {});

}  // namespace gq::render
