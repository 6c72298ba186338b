#pragma once
#include <stop_token>
#include <vector>

#include "core/find/tears.h"

namespace gq::find {

/// Pieces of paper bared inside a print: light, flat, of one tone that the rest of the print hardly
/// has, outshone by nothing near, with a torn edge all around; neither slivers nor cut straight.
/// `plane` and `calm` are of the small picture `at`. Cancelled: what was found so far.
[[nodiscard]] std::vector<Finding> baredPaper(const ImageF& plane, const Calm& calm,
                                              const Coarse& at, const Size& picture,
                                              std::stop_token stop);

/// Makes losses of large specks of a print that have no picture in them. Cancelled: of some.
void nameLosses(std::vector<Finding>& found, const Scales& picture, std::stop_token stop = {});

}  // namespace gq::find
