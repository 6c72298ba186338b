#pragma once
#include "sim/view.h"

namespace gq::sim {

/// The whole scene in linear light as the lens throws it on the sensor: CV_32FC3, white at 1,
/// as shown (upright), with the lens' blur and fall-off.
[[nodiscard]] ImageF renderScene(const View& view);

}  // namespace gq::sim
