#pragma once
#include <stop_token>
#include <vector>

#include "core/find/finding.h"
#include "core/pixels/scales.h"

namespace gq::find {

/// Missing corners and edges of prints: what lies behind the print, light or dark, open to the
/// picture's edge, flatter than anything in the print, with a torn edge all around; and paper bared
/// inside it (`baredPaper`). What surrounds a print that was laid smaller than the scan, even a
/// little askew, is none.
/// Threads: re-entrant. Cancelled: what was found so far, or nothing.
[[nodiscard]] std::vector<Finding> losses(const Scales& picture, std::stop_token stop);

}  // namespace gq::find
