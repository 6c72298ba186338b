#include "core/find/finding.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace gq::find {
namespace {

constexpr std::array<const char*, 7> kKindWords{"shadow", "speck", "fibre", "scratch",
                                                "crack",  "stain", "loss"};

}  // namespace

float logOdds(float confidence) {
    const float p = std::clamp(confidence, 1e-4f, 1 - 1e-4f);
    return std::log(p / (1 - p));
}

float probability(float logOdds) {
    return 1 / (1 + std::exp(-logOdds));
}

const std::vector<Kind>& allKinds() {
    using enum Kind;
    static const std::vector<Kind> all{Shadow, Speck, Fibre, Scratch, Crack, Stain, Loss};
    return all;
}

bool isLine(Kind kind) {
    return kind == Kind::Fibre || kind == Kind::Scratch || kind == Kind::Crack;
}

std::string word(Kind kind) {
    return kKindWords[size_t(kind)];
}

std::string word(Polarity polarity) {
    return polarity == Polarity::Dark ? "dark" : "light";
}

std::optional<Kind> kindFromWord(const std::string& text) {
    const auto at = std::find(kKindWords.begin(), kKindWords.end(), text);
    if (at == kKindWords.end()) return std::nullopt;
    return Kind(at - kKindWords.begin());
}

std::optional<Polarity> polarityFromWord(const std::string& text) {
    for (const Polarity p : {Polarity::Dark, Polarity::Light})
        if (word(p) == text) return p;
    return std::nullopt;
}

}  // namespace gq::find
