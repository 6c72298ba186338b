#pragma once
#include <vector>

#include "core/carry/sheet.h"

namespace gq::carry {

/// How a frame's tones slope about a place. The rim of a shadow is steeper than a sky or a blurred
/// ground, and what the picture itself has of steep slopes (an edge, a wire) covers little of the
/// place; so slopes tell a shadow that levels do not.
class Slopes {
  public:
    /// What they say of a shadow.
    struct Match {
        double strength = 0;  ///< likeliest, 1 = as known
        double error = 1e3;   ///< standard error of that
        double told = 0;      ///< log likelihood of it over that of no shadow at all; 0 = nothing
    };
    /// `cover` like the departure, 255 = may be shaded; the rest tells how steep the picture is.
    Slopes(const Departure& seen, const Mask& cover);

    /// `known`: log share of light let through, like the departure. Strengths from 0.2 to 1.6 are
    /// tried. The likelihood is Cauchy's, so that a few steep slopes decide nothing.
    /// Checked on the demo series: at 297 shadows and at eight places beside each, which now and
    ///          then bear another, `told` exceeds (strength - 1)^2 / 0.125 at 89 and at 2 of 100.
    [[nodiscard]] Match match(const ImageF& known) const;

  private:
    struct Place {
        int x, y;
        float gx, gy;
    };
    /// What a plane has of detail finer than m_sigma; places that tell nothing do not count.
    [[nodiscard]] ImageF fineOf(const ImageF& plane) const;

    ImageF m_trust, m_trusted;  ///< and over m_sigma around
    double m_sigma;             ///< px; coarser structure is left out
    std::vector<Place> m_places;
    float m_usual = 0;        ///< steepness around, 0 = not told
    double m_correlated = 1;  ///< px that tell as much as one: structure is not independent
};

}  // namespace gq::carry
