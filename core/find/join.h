#pragma once
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/image.h"

namespace gq::find {

/// Makes one list of findings of several levels and detectors. Of two at one place a loss or a
/// sure long line stays before others, which stay too where they reach beyond the line, else the
/// surer one, but a whole before its crumbs; broad marks lie under all others; pieces of one line
/// that follow on from each other, and branches of one crack, become one finding with the shape of
/// all.
[[nodiscard]] std::vector<Finding> joined(std::vector<Finding> all, const Size& picture);

/// Makes `piece` a part of `into`.
void absorb(Finding& into, const Finding& piece, const Size& picture);

}  // namespace gq::find
