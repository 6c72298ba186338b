#pragma once
#include <unordered_map>

#include "core/series/series.h"

namespace gq::series {

/// Finds the entries of one frame without going through all of them each time; for loops over a
/// frame with thousands. It looks at the frame as it was when made, which has to outlive it.
class Lookup {
  public:
    explicit Lookup(const Frame& frame);

    [[nodiscard]] const FindingEntry* finding(Id id) const;
    [[nodiscard]] const MendEntry* mendOf(Id finding) const;
    [[nodiscard]] State stateOf(const FindingEntry& finding) const;

  private:
    std::unordered_map<Id, const FindingEntry*> m_findings;
    std::unordered_map<Id, const MendEntry*> m_mends;  ///< by the finding that they mend
};

}  // namespace gq::series
