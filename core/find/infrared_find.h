#pragma once
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/guides.h"

namespace gq::find {

/// Findings where infrared is held back: their place, shape and size are those of the dust itself.
/// Shapes: `evidence` planes are of the picture's size.
[[nodiscard]] std::vector<Finding> infraredFindings(const Infrared& evidence, Origin origin,
                                                    Polarity polarity);

/// With infrared at hand, what is found in the picture alone must show there too: confidence falls
/// where nothing does. Scratches that hold little infrared back keep half.
void confirm(std::vector<Finding>& findings, const Infrared& evidence);

}  // namespace gq::find
