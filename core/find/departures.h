#pragma once
#include "core/find/residual.h"

namespace gq::find {

/// Film and prints: how far each colour has left the range of the medians around it towards
/// `tone`, what of its move points elsewhere, and the share of the way that it went; written into
/// `out`. An edge that the medians show on both sides leaves nothing.
void departures(const Level& level, float tone, Residual& out, std::stop_token stop);

}  // namespace gq::find
