#pragma once
#include <vector>

#include "core/find/finding.h"
#include "core/find/forest.h"

namespace gq::find {

/// What a forest makes of candidates that have `features`: those it takes for blemishes with at
/// least the confidence `least`, as `findingOf` shapes each. `doubt` is taken off its log odds.
template <class Candidate, class FindingOf>
[[nodiscard]] std::vector<Finding> believed(const std::vector<Candidate>& candidates,
                                            const Forest& forest, float doubt, float least,
                                            FindingOf findingOf) {
    std::vector<Finding> out;
    for (const auto& candidate : candidates) {
        const float confidence = probability(forest.logOdds(candidate.features) - doubt);
        if (confidence < least) continue;
        Finding f = findingOf(candidate);
        f.confidence = confidence;
        if (!f.region.empty()) out.push_back(std::move(f));
    }
    return out;
}

}  // namespace gq::find
