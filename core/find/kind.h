#pragma once
#include "core/find/find_plan.h"

namespace gq::find {

/// Kind by shape and origin: what is long is a fibre when it bends, on film a scratch when it runs
/// straight, on prints a crack; the rest are shadows on sensors and specks elsewhere.
/// `straightness`: 1 for a straight run, lower the more it bends.
[[nodiscard]] Kind kindOf(const Measures& m, float straightness, Origin origin);

}  // namespace gq::find
