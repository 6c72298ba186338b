#pragma once
#include <vector>

#include "core/pixels/image.h"
#include "sim/dice.h"

namespace gq::sim {

/// How much of each pixel something covers, 0..1, over a box of the picture.
struct Cover {
    Rect box;
    ImageF share;  ///< CV_32F, box.size(); empty when the thing lies outside the picture

    [[nodiscard]] bool empty() const { return share.empty(); }
};

/// A blob whose outline wavers by a few harmonics. Units: px; `edge` is the width of its soft rim.
[[nodiscard]] Cover blob(PointF centre, float radius, float edge, float stretch, Dice& dice,
                         const Size& picture);

/// A point of a stroke with the strength (0..1) and width (px) it has there.
struct StrokePoint {
    PointF at;
    float width = 2, strength = 1;
};
[[nodiscard]] Cover strokeCover(const std::vector<StrokePoint>& run, float edge,
                                const Size& picture);

/// A hair: a run that bends gently at random.
[[nodiscard]] std::vector<StrokePoint> hairRun(PointF start, float length, float width, Dice& dice);
/// A scratch: straight but for a slight drift, its strength coming and going.
[[nodiscard]] std::vector<StrokePoint> scratchRun(PointF start, float heading, float length,
                                                  float width, Dice& dice);
/// A crack with its branches: jagged runs that split and thin out.
[[nodiscard]] std::vector<std::vector<StrokePoint>> crackRuns(PointF start, float heading,
                                                              float length, float width,
                                                              Dice& dice);

}  // namespace gq::sim
