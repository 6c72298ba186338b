#pragma once
#include <stop_token>

#include "core/find/find_plan.h"
#include "core/pixels/image.h"

namespace gq::find {

/// How one origin is looked at, level by level.
struct LevelPlan {
    int level;        ///< pixels of the level are 2^level full-size pixels wide
    int window;       ///< side of the background's median, px of the level, odd
    float smoothing;  ///< sigma before anything else, px of the level
};
/// The levels to search in a picture of `size`. On sensors the finest one is left out of large
/// pictures, where dust is never that small.
[[nodiscard]] std::vector<LevelPlan> levelsOf(Origin origin, const Size& size);

/// One level of a picture and its background.
struct Level {
    LevelPlan plan{};
    Image8 colour;      ///< CV_8UC1 or CV_8UC3
    ImageF plane;       ///< log luminance (sensor) or luma 0..1, a little smoothed
    ImageF background;  ///< of `plane` (sensor): median over the window
    Image8 backdrop;    ///< of `colour` (others): median per channel, at half the level's size
    ImageF gradient;    ///< steepness of `plane` per px
    ImageF chroma;      ///< sensor: departure of colour ratios from their surroundings, log units,
                        ///< at half the level's size
    bool mono = false;  ///< no colour in the picture: neutrality says nothing
};

/// A level's departure from its background towards what a blemish would do to it.
struct Residual {
    ImageF toward;   ///< sensor: log dimming; others: tone moved towards the blemish's
    ImageF across;   ///< what of the departure a blemish cannot explain, >= 0
    ImageF noise;    ///< local scale of `toward`, not dragged by single blemishes; of every second
                     ///< pixel of every second row
    ImageF opacity;  ///< share of the way to the blemish's tone; `toward` itself on sensors

    [[nodiscard]] float noiseAt(Point p) const { return noise.at<float>(p.y / 2, p.x / 2); }
};

/// Works a level out. `pixels` are the level's own pixels (16 bits).
/// Sensor: the plane is coded in fine steps around a coarse median, so that medians of 8 bits keep
/// faint shadows. Medians are taken of half the size, where they cost a quarter. Source of medians:
/// Perreault, Hebert, IEEE TIP 16(9), 2007, by OpenCV.
/// `plan.smoothing` is for sensors only.
[[nodiscard]] Level levelOf(const Image& pixels, const LevelPlan& plan, Origin origin,
                            std::stop_token stop);
/// A sensor picture's plane and background alone: all that `heldBack` needs.
[[nodiscard]] Level tonesOf(const Image& pixels, const LevelPlan& plan, std::stop_token stop);

/// Sensors: light held back alike in all channels. Others: the change of colour is projected on
/// the direction from the background to a blemish's tone (white or black dust, bared paper).
/// Noise: the larger of 1.48 x the median of |toward| over 41 px and 1.1 x its mean over 61 px
/// clipped at three times itself; median and clip keep a blemish out of its own threshold.
[[nodiscard]] Residual residualOf(const Level& level, Origin origin, Polarity polarity,
                                  std::stop_token stop);

/// What a level of a sensor's picture says of dust.
struct HeldBack {
    ImageF light;  ///< log light held back, in units of its noise
    ImageF noise;  ///< as a residual's, of every second pixel of every second row
};
/// A level by `tonesOf` will do. Cancelled: what is missing is empty.
[[nodiscard]] HeldBack heldBack(const Level& level, std::stop_token stop);

/// The tone a blemish of this origin and polarity tends to, 0..1.
[[nodiscard]] float toneOf(Origin origin, Polarity polarity);

}  // namespace gq::find
