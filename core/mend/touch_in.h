#pragma once
#include <array>
#include <stop_token>

#include "core/mend/window.h"

namespace gq::mend {

/// Fills the hole with one tone (0..1 a channel) and the grain of its surroundings. `share` 0..1
/// of the grain. Errors: Cancelled.
[[nodiscard]] Status touchIn(Window& window, const std::vector<Point>& hole,
                             const std::array<float, 3>& tone, float share, std::stop_token stop);

}  // namespace gq::mend
