#pragma once
#include "core/series/series.h"

namespace gq::series {

/// What the mends of a frame keep away from: its other mends, soft edges included, and its
/// findings above the line that are still to be mended. Made once for a frame as it is, since
/// growing many regions takes a while.
/// Threads  re-entrant.
class Avoided {
  public:
    Avoided(const Frame& frame, float line);

    /// All but `except` and the findings under it; only what reaches into `within`, unless that is
    /// empty.
    [[nodiscard]] std::vector<Region> by(Id except, const Rect& within = {}) const;

  private:
    struct Mended {
        Id id;
        Region region;  ///< of the mend itself
        Region kept;    ///< what others keep away from; empty if they need not
    };
    std::vector<Mended> m_mends;
    std::vector<Region> m_findings;
};

}  // namespace gq::series
