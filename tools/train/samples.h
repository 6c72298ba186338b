#pragma once
#include <vector>

#include "core/find/survey.h"
#include "sim/wear.h"

namespace gq::train {

/// Labelled candidates: true = a blemish.
struct Samples {
    std::vector<find::Features> features;
    std::vector<float> labels;

    void add(const Samples& other);
};

/// Labelled looks at those candidates that a forest finds worth one: 1 = a blemish.
struct Looks {
    std::vector<find::Look> looks;
    std::vector<uchar> labels;
};

/// What one model is trained for.
struct Subject {
    const char* name;  ///< of its file of weights
    const char* look;  ///< of its network, which films share
    int lookVariants;  ///< worn pictures a photograph; sensors bear the fewest marks
    find::Origin origin;
    sim::Medium medium;
};

/// A picture worn for training or for measuring: size, tone, grain, amount all at random.
[[nodiscard]] sim::Worn wornAtRandom(const Image& clean, sim::Medium medium, std::uint32_t seed);

/// The candidates of a worn picture, told apart by the true maps; doubtful ones are left out.
[[nodiscard]] Samples samplesOf(const sim::Worn& worn, find::Origin origin);
[[nodiscard]] Looks looksOf(const sim::Worn& worn, find::Origin origin, const find::Forest& forest);

}  // namespace gq::train
