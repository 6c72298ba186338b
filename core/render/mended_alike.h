#pragma once
#include <stop_token>

#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::render {

/// The frames of one bracket or focus stack, searched already: what any of them shows above the
/// line is mended in all, at the same place from the same source, so that what they make together
/// bears no spot twice. Mends that they have stay.
/// Threads: parallel inside. Errors: those of reading a frame, Refused (another camera), Cancelled.
[[nodiscard]] Result<series::Series> mendedAlike(const series::Series& series,
                                                 const Progress& progress = {},
                                                 std::stop_token stop = {});

}  // namespace gq::render
