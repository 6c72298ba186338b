#pragma once
#include <array>

#include "core/carry/shadow.h"

namespace gq::carry {

/// f-numbers that are tried for frames that do not tell theirs: only their ratios matter.
inline constexpr std::array<double, 5> kOpenings{5.6, 8, 11, 16, 22};
using OpeningsTold = std::array<double, kOpenings.size()>;  ///< log likelihoods, as `Slopes::Match`

/// How a known shadow would show at openings that nobody told. One whose own opening is not known
/// either is taken as seen at the middle one, with a usual spread. Threads: `told` is re-entrant.
class OpeningTries {
  public:
    explicit OpeningTries(const Shadow& shadow);
    /// How well each opening explains what a frame shows, `logs` and `trust` as in `Departure`,
    /// over the shadow's box.
    [[nodiscard]] OpeningsTold told(const ImageF& logs, const ImageF& trust) const;

  private:
    std::array<ImageF, kOpenings.size()> m_known;
    Mask m_cover;
};

}  // namespace gq::carry
