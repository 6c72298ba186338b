#pragma once
#include <vector>

#include "core/carry/sheet.h"

namespace gq::carry {

/// How far a shadow may well be deeper or less deep in a frame than as known, 1 = as known.
inline constexpr float kDepthDoubt = 0.25f;

/// How a frame's tones slope about a place. Dividing a shadow out flattens the slopes where it is,
/// and adds some where it is not. They are judged by their covariance near each pixel (the
/// structure tensor of Förstner & Gülch, 1987), so that calm parts tell most, and beside an edge
/// only what runs across it counts against a shadow.
class Slopes {
  public:
    /// What they say of a shadow.
    struct Match {
        double strength = 0;  ///< likeliest, 1 = as known
        double error = 1e3;   ///< standard error of that
        double told = 0;      ///< log likelihood of it over that of no shadow at all; 0 = nothing
        double evidence = 0;  ///< the same of all strengths as likely as they are; below 0 they
                              ///< speak against it
    };
    /// `cover` like the departure, 255 = may be shaded.
    Slopes(const Departure& seen, const Mask& cover);

    /// `known`: log share of light let through, like the departure. Strengths from 0.2 to 1.6 are
    /// tried.
    [[nodiscard]] Match match(const ImageF& known) const;

  private:
    /// Slopes along x and y where the frame tells of light, else 0.
    struct Field {
        ImageF x, y;
    };
    [[nodiscard]] Field fieldOf(const ImageF& plane) const;
    [[nodiscard]] ImageF productsWith(const Field& known) const;

    Rect m_box;     ///< of the departure, all that matters; the planes below are of its size
    Mask m_inside;  ///< covered and told
    ImageF m_told, m_near;
    Field m_seen;
    ImageF m_xx, m_xy, m_yy;  ///< sums of the slopes' products near each pixel
};

}  // namespace gq::carry
