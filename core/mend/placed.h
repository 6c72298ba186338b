#pragma once
#include <functional>

#include "core/mend/window.h"

namespace gq::mend {

/// Where the texture of a place comes from when its source was put there by hand.
class Placement {
  public:
    /// `centre` is what the source is turned about: the middle of the place. Window coordinates.
    Placement(PointF centre, Point offset, const Turn& turn);

    /// The source's point for a point of the place.
    [[nodiscard]] PointF at(const PointF& p) const;
    /// Its colour: exact when nothing is turned or scaled, else bicubic (Catmull-Rom); edges
    /// repeated.
    [[nodiscard]] Vec4 sample(const Window& w, const Point& p) const;
    /// The box the source of `place` comes from.
    [[nodiscard]] Rect sourceOf(const Rect& place) const;

  private:
    PointF m_centre;
    Point m_offset;
    bool m_plain;
    float m_a, m_b, m_c, m_d;
};

/// The source's colour for a place of the window.
using Sampler = std::function<Vec4(const Point&)>;

/// Fills `hole` from a source: its exact pixels, or (`toned`) moved to the place's tone by a
/// membrane over the rim. Returns the root mean square difference of the rims, 0..1.
float fillFrom(Window& w, const std::vector<Point>& hole, const Sampler& source, bool toned);

}  // namespace gq::mend
