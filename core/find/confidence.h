#pragma once
#include "core/find/find_plan.h"

namespace gq::find {

/// Kind by shape: long ones are fibres, soft or large ones shadows (sensors), others specks.
[[nodiscard]] Kind kindOf(const Measures& m, Origin origin);

/// Confidence 0..1 that the measures are those of a blemish: a logistic sum of bounded features and
/// their products. Nearly all are ratios, so one set of weights serves all origins.
[[nodiscard]] float confidenceOf(const Measures& m);

}  // namespace gq::find
