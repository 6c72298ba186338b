#pragma once
#include <string>
#include <vector>

#include "core/carry/carry.h"

namespace gq::carry {

/// Dust on a flatbed's glass lies at the same place in every scan until it is wiped off. Specks,
/// fibres and other small pieces of one polarity and about one shape that lie at the same place in
/// at least two of the frames are such a grain: each becomes surer and is tied to it (`charted`),
/// and a frame in which it was not found but shows (`visibilityOf`) gets it.
/// `frames` are those searched, of one size; without `pixels` nothing is added. Frames that cannot
/// be read get nothing.
/// Threads  re-entrant. Errors: none; a stop leaves the rest as it is.
[[nodiscard]] series::Series withGlassDust(const series::Series& series,
                                           const std::vector<std::string>& frames,
                                           const PixelSource& pixels = {},
                                           std::stop_token stop = {});

/// A scan as it is carried from to others of its glass: without mends of stains and losses, which
/// are the paper's, and with a finding and a mend for each grain that other frames are tied to and
/// it does not show.
[[nodiscard]] series::Frame glassOf(const series::Frame& frame, const series::Series& series,
                                    series::Id& nextId);

}  // namespace gq::carry
