#pragma once
#include <stop_token>
#include <vector>

#include "core/find/find_plan.h"
#include "core/find/guides.h"
#include "core/pixels/image.h"
#include "core/pixels/parallel.h"

namespace gq::find {

/// Searches a picture for blemishes; the most confident first, those below the line included.
///
/// Shapes   any size; grey or colour.
/// Units    the picture's stored pixels; film scanned without a tone curve is measured as lifted
///          (dark_scan.h).
/// Edges    treated as mirrored.
/// Owns     nothing is kept after the call.
/// Cost     about 1 byte x 45 a pixel of the finest level searched.
/// Threads  parallel inside; equal bits for any number of threads; `stop` is polled per band.
/// Errors   BadSetting (empty picture), Cancelled.
[[nodiscard]] Result<std::vector<Finding>> find(const Picture& picture, const FindPlan& plan,
                                                const Guides& guides = {},
                                                const Progress& progress = {},
                                                std::stop_token stop = {});

}  // namespace gq::find
