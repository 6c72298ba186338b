#pragma once
#include "core/find/find_plan.h"

namespace gq::find {

/// Kind by shape: long ones are fibres, soft or large ones shadows (sensors), others specks.
[[nodiscard]] Kind kindOf(const Measures& m, Origin origin);

/// Confidence 0..1 that the measures are those of a blemish: a logistic sum of bounded features,
/// one set of weights for sensors and one for film and prints.
[[nodiscard]] float confidenceOf(const Measures& m, Origin origin);

}  // namespace gq::find
