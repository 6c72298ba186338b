#pragma once
#include <vector>

namespace gq {

/// The value below which `share` (0..1) of the values lie; 0 without values.
[[nodiscard]] float quantile(std::vector<float> values, double share);
[[nodiscard]] float medianOf(std::vector<float> values);

}  // namespace gq
