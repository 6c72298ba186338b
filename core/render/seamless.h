#pragma once
#include <stop_token>

#include "core/mend/mend.h"
#include "core/pixels/image.h"

namespace gq::render {

/// The mend with the softness and source under which its edge is least seen: as it is when its seam
/// passes; else the first of a wider softness and three other sources that passes, else the best of
/// them. Only methods that replace texture are tried; a placed source is kept.
/// `avoid` as of mend::Setting. Threads: re-entrant; one patch a try. Cost: that of one patch where
/// the first one passes.
[[nodiscard]] mend::Mend seamless(const Image& pixels, const std::vector<Region>& avoid,
                                  const mend::Mend& mend, std::stop_token stop = {});

}  // namespace gq::render
