#include "core/find/finding.h"

#include <algorithm>
#include <array>

namespace gq::find {
namespace {

constexpr std::array<const char*, 7> kKindWords{"shadow", "speck", "fibre", "scratch",
                                                "crack",  "stain", "loss"};

}  // namespace

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
