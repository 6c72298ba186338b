#pragma once
#include <vector>

#include "core/find/finding.h"

namespace gq::find {

/// A fold of a print has a light and a dark side, found as two lines: those that run close beside
/// each other, one light and one dark, become one finding with what lies between them, as sure and
/// of the polarity of the surer. Apart, each would be mended by the other side's tones. Gives the
/// surest first. Units: full-size pixels of `picture`. Threads: re-entrant.
[[nodiscard]] std::vector<Finding> foldsJoined(std::vector<Finding> all, const Size& picture);

}  // namespace gq::find
