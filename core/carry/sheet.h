#pragma once
#include "core/series/series.h"

namespace gq::carry {

/// How a frame departs from its own surroundings around a place of the sensor.
struct Departure {
    ImageF logs;      ///< log linear luminance less the sheet's, sensor coordinates
    ImageF trust;     ///< 1 where the pixel tells of light, 0 where it is clipped, black or outside
    ImageF level;     ///< as `logs`, less the sheet's plane alone
    Mask ring;        ///< pixels that tell of the surroundings
    float noise = 1;  ///< spread of the ring about the sheet
    bool told = false;
};

/// Reads `box` (sensor coordinates) from a frame and takes out a sheet (plane and membrane) that is
/// stretched through the ring: pixels of the box outside `cover`. Colours that are clipped in a
/// tenth of the place and more are left out.
/// Shapes  `cover` like the box, 255 = may be shaded.
/// Threads re-entrant.
[[nodiscard]] Departure departureAt(const Image& pixels, const FrameGeometry& geometry,
                                    const Rect& box, const Mask& cover);

/// How much the ring varies near each pixel of the box: a place may lie half on sky, half on grass.
/// Shapes: the departure, which was told -> a plane like it.
[[nodiscard]] ImageF spreadNear(const Departure& departure);

/// sensor -> stored as a 2 x 3 matrix on pixel indices, from `box`'s corner to `to`'s.
[[nodiscard]] cv::Matx23d sensorToStored(const FrameGeometry& geometry, Point from, Point to);

}  // namespace gq::carry
