#include "core/find/confidence.h"

#include <algorithm>
#include <cmath>

#include "core/find/closer_look.h"
#include "core/find/forest.h"

namespace gq::find {
namespace {

/// How far a share below the trained one is believed. A share above it is not: a picture full of
/// look-alikes has the same candidates as a dusty one.
constexpr float kTrust = 0.35f;
/// What the network says counts for this much against the forest.
constexpr float kLookShare = 0.5f;
/// Wrong findings cost the person at the bench more than missed ones, which stay listed.
float cautionOf(Origin origin) {
    return origin == Origin::Sensor ? 0.4f : 0.6f;
}

float probability(float logOdds) {
    return 1 / (1 + std::exp(-logOdds));
}

/// The log odds to add to every candidate for a picture whose share of true ones differs from that
/// of the training.
float priorShift(const std::vector<float>& logOdds, float trained) {
    const double start = std::log(double(trained) / (1 - double(trained)));
    double share = double(trained);
    for (int i = 0; i < 30; ++i) {
        const double shift = std::log(share / (1 - share)) - start;
        double sum = 0.5 * double(trained);
        for (const float l : logOdds) sum += double(probability(l + float(shift)));
        share = std::clamp(sum / (double(logOdds.size()) + 0.5), 1e-4, 0.95);
    }
    return float(std::log(share / (1 - share)) - start);
}

/// Where a look was worth it, the network and the forest are taken together.
void lookCloser(const std::vector<Surveyed>& survey, Origin origin,
                std::vector<std::vector<float>>& odds, std::stop_token stop) {
    std::vector<Look> looks;
    for (const auto& s : survey) looks.insert(looks.end(), s.looks.begin(), s.looks.end());
    const auto seen = closerLook(looks, origin, stop);
    size_t next = 0;
    for (size_t i = 0; i < survey.size(); ++i)
        for (const size_t k : survey[i].looked) {
            float& v = odds[i][k];
            v += kLookShare * (seen[next++] - v);
        }
}

}  // namespace

float ruleLogOdds(const Features& f) {
    return 1.6f * std::log(std::max(f[PeakOverNoise] / 6, 0.1f)) - 2.0f * f[NearSpread] -
           1.5f * f[AcrossOverOwn] + 0.8f * std::log(std::max(f[MeanMiddle] / 6, 0.1f)) +
           1.5f * f[NearSectorLeast] - 1;
}

std::vector<std::vector<float>> confidences(const std::vector<Surveyed>& survey, Origin origin,
                                            std::stop_token stop) {
    std::vector<std::vector<float>> out;
    for (const auto& s : survey) out.push_back(s.logOdds);
    lookCloser(survey, origin, out, stop);
    std::vector<float> all;
    float prior = 0.5f;
    for (size_t i = 0; i < survey.size(); ++i) {
        const Forest* forest = forestFor(origin, survey[i].polarity);
        if (!forest) continue;
        prior = forest->prior();
        all.insert(all.end(), out[i].begin(), out[i].end());
    }
    const float shift =
        all.empty() ? 0 : kTrust * std::min(priorShift(all, prior), 0.0f) - cautionOf(origin);
    for (auto& list : out)
        for (auto& v : list) v = probability(v + shift);
    return out;
}

}  // namespace gq::find
