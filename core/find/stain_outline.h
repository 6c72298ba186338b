#pragma once
#include "core/pixels/region.h"

namespace gq::find {

/// What changes where an outline is crossed.
struct Crossing {
    float share = 0;   ///< of the outline where the tint changes by half the mark's depth at least
    float tone = 0;    ///< median change of tone, outside less inside
    float unlike = 0;  ///< median deviation of the change of tone along the outline
};

/// How a mark ends, in the mean along its outline.
struct Edge {
    float rim = 0;    ///< deepest within the outline over its middle: 1 = no rim; 0 = not told
    float width = 0;  ///< px from a quarter to three quarters of its depth there, twice
};

/// The outline of a mark, by the distance of the places around it.
class Outline {
  public:
    Outline(const Region& region, const Size& picture);

    /// `tint`: what the mark adds; `tone`: log light; of the picture's size, CV_32F. `depth`: of
    /// the mark, in units of tint.
    [[nodiscard]] Crossing crossing(const ImageF& tint, const ImageF& tone, float depth) const;
    [[nodiscard]] Edge edge(const ImageF& tint) const;

  private:
    Rect m_all, m_box;
    ImageF m_outward;   ///< px from the outline, below 0 inside
    float m_thick = 0;  ///< px; the largest distance inside
};

}  // namespace gq::find
