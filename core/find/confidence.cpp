#include "core/find/confidence.h"

#include <algorithm>
#include <cmath>

#include "core/find/forest.h"

namespace gq::find {
namespace {

/// What the network says counts for this much against the forest.
constexpr float kLookShare = 0.5f;
/// Wrong findings cost the person at the bench more than missed ones, which stay listed: taken off
/// the log odds. Chosen on photographs kept out of training.
float cautionOf(Origin origin) {
    switch (origin) {
        case Origin::Sensor:
            return 0.2f;
        case Origin::Negative:
            return 0.8f;
        case Origin::Positive:
            return 0.7f;
        default:
            return 0.8f;
    }
}

}  // namespace

float ruleLogOdds(const Features& f) {
    return 1.6f * std::log(std::max(f[PeakOverNoise] / 6, 0.1f)) - 2.0f * f[NearSpread] -
           1.5f * f[AcrossOverOwn] + 0.8f * std::log(std::max(f[MeanMiddle] / 6, 0.1f)) +
           1.5f * f[NearSectorLeast] - 1;
}

std::vector<FirstOdds> firstOdds(const std::vector<Surveyed>& survey, LookNetwork network,
                                 std::stop_token stop) {
    std::vector<Look> looks;
    for (const auto& s : survey) looks.insert(looks.end(), s.looks.begin(), s.looks.end());
    const auto seen = closerLook(looks, network, stop);
    std::vector<FirstOdds> out;
    size_t next = 0;
    for (const auto& s : survey) {
        FirstOdds first{s.logOdds, s.logOdds};
        for (const size_t k : s.looked) {
            first.look[k] = seen[next++];
            first.taken[k] += kLookShare * (first.look[k] - first.taken[k]);
        }
        out.push_back(std::move(first));
    }
    return out;
}

std::vector<std::vector<float>> confidences(const std::vector<Surveyed>& survey, Origin origin,
                                            const Size& picture, std::stop_token stop) {
    const auto first = firstOdds(survey, lookNetworkFor(origin), stop);
    std::vector<std::vector<float>> out;
    for (const auto& f : first) out.push_back(f.taken);
    for (const auto& r : companyOf(survey, first, picture))
        if (const Forest* forest = reviewFor(origin, survey[r.list].polarity))
            out[r.list][r.candidate] = forest->logOdds(r.features);
    for (auto& list : out)
        for (auto& v : list) v = probability(v - cautionOf(origin));
    return out;
}

}  // namespace gq::find
