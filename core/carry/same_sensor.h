#pragma once
#include <optional>

#include "core/series/series.h"

namespace gq::carry {

/// The frame as it lies on a sensor of `sensor` px. Cameras also write smaller pictures of the
/// whole sensor (the same shape within half a percent; the scale follows), and their raw converters
/// cut up to 3 % off the margins, evenly. A frame of any other shape comes back as it is.
[[nodiscard]] series::Frame laidOn(const Size& sensor, series::Frame frame);

/// How a picture was cut out of what the sensor showed, and turned for good.
struct Cut {
    Size sensor;                              ///< px
    Orientation turn = Orientation::Upright;  ///< sensor -> stored
    Point corner{0, 0};                       ///< of the picture on the turned sensor, px
};
/// The frame as that part of the sensor; nothing = as its own size tells. Its findings and mends
/// stay where they are on it. Errors: BadSetting when it would reach beyond the sensor.
[[nodiscard]] Result<series::Frame> asCut(series::Frame frame, const std::optional<Cut>& cut);

/// Why a frame cannot take part in what `reference` tells of the sensor; empty if it can. (Another
/// camera, or another shape.)
[[nodiscard]] std::string refusal(const series::Frame& reference, const series::Frame& target);

}  // namespace gq::carry
