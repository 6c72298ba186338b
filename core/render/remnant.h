#pragma once
#include <stop_token>

#include "core/render/composition.h"
#include "core/series/series.h"

namespace gq::render {

/// What Find still sees at a mended place: findings of at least `line` that meet the mend's
/// footprint grown by 3 px, searched in a window around it of `mended`, a picture of `bits` a
/// channel. Errors: Cancelled.
[[nodiscard]] Result<std::vector<find::Finding>> remnants(const Composition& mended, int bits,
                                                          const mend::Mend& mend,
                                                          const find::FindPlan& plan, float line,
                                                          std::stop_token stop = {});

}  // namespace gq::render
