#pragma once
#include <vector>

#include "core/find/survey.h"
#include "sim/wear.h"

namespace gq::train {

/// Labelled candidates: true = a blemish.
struct Samples {
    std::vector<find::Features> features;
    std::vector<float> labels;
    std::vector<find::Look> looks;  ///< of those worth one, where a network takes them
    std::vector<uchar> lookLabels;  ///< 1 = a blemish

    void add(const Samples& other);
};

/// What one model is trained for.
struct Subject {
    const char* name;  ///< of its file of weights
    find::Origin origin;
    sim::Medium medium;
};

/// A picture worn for training or for measuring: size, tone, grain, amount all at random.
[[nodiscard]] sim::Worn wornAtRandom(const Image& clean, sim::Medium medium, std::uint32_t seed);

/// The candidates of a worn picture, told apart by the true maps; doubtful ones are left out.
[[nodiscard]] Samples samplesOf(const sim::Worn& worn, find::Origin origin);

}  // namespace gq::train
