#pragma once
#include <span>
#include <vector>

#include "core/find/survey.h"
#include "sim/wear.h"

namespace gq::train {

/// Labelled candidates, `width` features each, one after the other: 1 = a blemish.
struct Samples {
    size_t width = 0;
    std::vector<float> features, labels;

    void add(std::span<const float> one, bool blemish);
    void add(const Samples& other);
};

/// Labelled looks at those candidates that a forest finds worth one: 1 = a blemish.
struct Looks {
    std::vector<find::Look> looks;
    std::vector<uchar> labels;
};

/// What a worn picture teaches the first judgement's two parts.
struct Lesson {
    Samples samples;
    Looks looks;
};

/// A first judgement: trees, and the network that looks closer (ONNX).
struct FirstJudge {
    find::Forest forest;
    std::vector<uchar> network;
};

/// What one model is trained for.
struct Subject {
    const char* name;     ///< of its file of weights
    const char* places;   ///< of those of its islands and long lines, which films share
    const char* network;  ///< of its network, which films and prints share
    double megapixels;    ///< of its pictures; of larger prints more of a crack's course is seen
    /// Worn pictures a photograph for the first and the second judgement; sensors bear the fewest
    /// marks.
    int variants, reviewVariants;
    find::Origin origin;
    sim::Medium medium;
};

[[nodiscard]] bool isFilm(sim::Medium medium);

/// A picture worn for training or for measuring: size, tone, grain, amount all at random; `harm` as
/// of sim::WearPlan.
[[nodiscard]] sim::Worn wornAtRandom(const Image& clean, sim::Medium medium, std::uint32_t seed,
                                     bool harm = false);

/// A print with creases, foxing, stains and losses; half of them in one tone, as old prints are.
[[nodiscard]] sim::Worn stainedAtRandom(const Image& clean, std::uint32_t seed);

/// The candidates of a worn picture, told apart by the true maps; doubtful ones are left out. Looks
/// are taken at what `scout` finds worth one, none without it.
[[nodiscard]] Lesson lessonOf(const sim::Worn& worn, find::Origin origin,
                              const find::Forest* scout);
/// The same for the second judgement, after that of `first`.
[[nodiscard]] Samples reviewSamplesOf(const sim::Worn& worn, find::Origin origin,
                                      const FirstJudge& first);
/// The islands of a worn picture, of every polarity of its origin.
[[nodiscard]] Samples islandSamplesOf(const sim::Worn& worn, find::Origin origin);
/// The long lines of a worn picture, of every polarity of its origin.
[[nodiscard]] Samples lineSamplesOf(const sim::Worn& worn, find::Origin origin);
/// The places of a worn print that are tinted.
[[nodiscard]] Samples stainSamplesOf(const sim::Worn& worn);
}  // namespace gq::train
