#include "core/find/confidence.h"

#include <algorithm>
#include <cmath>

#include "core/find/closer_look.h"
#include "core/find/forest.h"

namespace gq::find {
namespace {

/// How far a share below the trained one is believed. A share above it is not: a picture full of
/// look-alikes has the same candidates as a dusty one.
constexpr float kTrust = 0.7f;
/// Wrong findings cost the person at the bench more than missed ones, which stay listed.
float cautionOf(Origin origin) {
    return origin == Origin::Sensor ? 0.1f : 0.6f;
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

/// Where a look was worth it, the network and the forest count alike.
void lookCloser(const Surveyed& s, std::vector<float>& odds) {
    const auto seen = closerLook(s.looks);
    size_t next = 0;
    for (float& v : odds)
        if (v > kWorthALook) v = (v + seen[next++]) / 2;
}

}  // namespace

float ruleLogOdds(const Features& f) {
    return 1.6f * std::log(std::max(f[PeakOverNoise] / 6, 0.1f)) - 2.0f * f[NearSpread] -
           1.5f * f[AcrossOverOwn] + 0.8f * std::log(std::max(f[MeanMiddle] / 6, 0.1f)) +
           1.5f * f[NearSectorLeast] - 1;
}

std::vector<std::vector<float>> confidences(const std::vector<Surveyed>& survey, Origin origin) {
    std::vector<std::vector<float>> out;
    std::vector<float> all;
    float prior = 0.5f;
    for (const auto& s : survey) {
        const Forest* forest = forestFor(origin, s.polarity);
        auto& list = out.emplace_back(s.logOdds);
        if (hasCloserLook(origin, s.polarity)) lookCloser(s, list);
        if (!forest) continue;
        prior = forest->prior();
        all.insert(all.end(), list.begin(), list.end());
    }
    const float shift =
        all.empty() ? 0 : kTrust * std::min(priorShift(all, prior), 0.0f) - cautionOf(origin);
    for (auto& list : out)
        for (auto& v : list) v = probability(v + shift);
    return out;
}

}  // namespace gq::find
