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

/// What the network says of each look, one after the other.
std::vector<float> seenOf(const std::vector<Surveyed>& survey, LookNetwork network,
                          std::stop_token stop) {
    std::vector<Look> looks;
    for (const auto& s : survey) looks.insert(looks.end(), s.looks.begin(), s.looks.end());
    return closerLook(looks, network, stop);
}

/// Trees and network together.
std::vector<FirstOdds> together(const std::vector<Surveyed>& survey,
                                std::vector<float> Surveyed::*trees,
                                const std::vector<float>& seen) {
    std::vector<FirstOdds> out;
    size_t next = 0;
    for (const auto& s : survey) {
        FirstOdds first{s.*trees, s.*trees, s.*trees};
        for (const size_t k : s.looked) {
            const float look = seen[next++];
            if ((s.*trees)[k] <= LookRule{}.least) continue;  // the other judge's
            first.look[k] = look;
            first.taken[k] += kLookShare * (first.look[k] - first.taken[k]);
        }
        out.push_back(std::move(first));
    }
    return out;
}

/// First and second judgement.
std::vector<std::vector<float>> judgedTwice(const std::vector<Surveyed>& survey,
                                            std::vector<float> Surveyed::*trees,
                                            const std::vector<float>& seen, Origin origin,
                                            const Size& picture) {
    const auto first = together(survey, trees, seen);
    std::vector<std::vector<float>> out;
    for (const auto& f : first) out.push_back(f.taken);
    for (const auto& r : companyOf(survey, first, picture))
        if (const Forest* forest = reviewFor(origin, survey[r.list].polarity))
            out[r.list][r.candidate] = forest->logOdds(r.features);
    for (auto& list : out)
        for (auto& v : list) v = probability(v - cautionOf(origin));
    return out;
}

}  // namespace

float ruleLogOdds(const Features& f) {
    return 1.6f * std::log(std::max(f[PeakOverNoise] / 6, 0.1f)) - 2.0f * f[NearSpread] -
           1.5f * f[AcrossOverOwn] + 0.8f * std::log(std::max(f[MeanMiddle] / 6, 0.1f)) +
           1.5f * f[NearSectorLeast] - 1;
}

std::vector<FirstOdds> firstOdds(const std::vector<Surveyed>& survey, LookNetwork network,
                                 std::stop_token stop) {
    return together(survey, &Surveyed::logOdds, seenOf(survey, network, stop));
}

std::vector<Confidences> confidences(const std::vector<Surveyed>& survey, Origin origin,
                                     const Size& picture, std::stop_token stop) {
    const auto seen = seenOf(survey, lookNetworkFor(origin), stop);
    auto own = judgedTwice(survey, &Surveyed::logOdds, seen, origin, picture);
    std::vector<std::vector<float>> asFilm(own.size());
    if (origin == Origin::Print)
        asFilm = judgedTwice(survey, &Surveyed::asFilm, seen, Origin::Negative, picture);
    std::vector<Confidences> out;
    for (size_t i = 0; i < own.size(); ++i)
        out.push_back({std::move(own[i]), std::move(asFilm[i])});
    return out;
}

}  // namespace gq::find
