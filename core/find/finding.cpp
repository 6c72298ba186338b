#include "core/find/finding.h"

namespace gq::find {

std::string word(Kind kind) {
    switch (kind) {
        case Kind::Shadow:
            return "shadow";
        case Kind::Speck:
            return "speck";
        case Kind::Fibre:
            return "fibre";
    }
    return {};
}

std::string word(Polarity polarity) {
    return polarity == Polarity::Dark ? "dark" : "light";
}

std::optional<Kind> kindFromWord(const std::string& text) {
    for (const Kind k : {Kind::Shadow, Kind::Speck, Kind::Fibre})
        if (word(k) == text) return k;
    return std::nullopt;
}

std::optional<Polarity> polarityFromWord(const std::string& text) {
    for (const Polarity p : {Polarity::Dark, Polarity::Light})
        if (word(p) == text) return p;
    return std::nullopt;
}

}  // namespace gq::find
