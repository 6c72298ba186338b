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

    /// A mend as it is laid, and what it keeps away from, shields too.
    struct Laid {
        /// Less what is shielded; its region may be empty. A Rebuild that lies in the bounds copies
        /// from them alone.
        mend::Mend mend;
        std::vector<Region> avoid;
    };
    [[nodiscard]] Laid laid(Id id, const mend::Mend& mend) const;

  private:
    struct Mended {
        Id id;
        Region region;  ///< of the mend itself
        Region kept;    ///< what others keep away from; empty if they need not
    };
    std::vector<Mended> m_mends;
    std::vector<Region> m_findings;
    GuidesPtr m_guides;
    Size m_picture;
};

/// What of a mend is not shielded; its soft edge must not reach into a shield either.
[[nodiscard]] mend::Mend unshielded(const mend::Mend& mend, const Frame& frame);

}  // namespace gq::series
