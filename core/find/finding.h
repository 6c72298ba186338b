#pragma once
#include <optional>
#include <string>
#include <vector>

#include "core/pixels/region.h"

namespace gq::find {

enum class Kind { Shadow, Speck, Fibre, Scratch, Crack, Stain, Loss };
enum class Polarity { Dark, Light };
[[nodiscard]] constexpr Polarity opposite(Polarity p) {
    return p == Polarity::Dark ? Polarity::Light : Polarity::Dark;
}

/// Why a blemish was proposed. All in full-size pixels and natural units.
struct Measures {
    float contrast = 0;   ///< depth against the ring: log units on sensors, tone 0..1 elsewhere
    float noise = 0;      ///< local noise of the same plane
    float peak = 0;       ///< highest residual over noise
    float size = 0;       ///< diameter of a disc of the same area, px
    float length = 0;     ///< along its run, px
    float width = 0;      ///< across its run, px
    float softness = 0;   ///< width of its edge, px
    float ring = 0;       ///< spread of the surroundings over the contrast
    float colour = 0;     ///< what of its change no blemish explains, over the contrast
    float isolation = 0;  ///< contrast over the residuals in a wide window
    float rim = 0;        ///< stains: depth along the outline over the middle's; 0 = not told
};

/// One detected blemish.
struct Finding {
    Region region;  ///< its true shape, stored coordinates
    Kind kind = Kind::Shadow;
    Polarity polarity = Polarity::Dark;
    float confidence = 0;  ///< 0..1
    Measures measures;
};

/// Log odds of a confidence, which is held 1e-4 off 0 and 1, and back.
[[nodiscard]] float logOdds(float confidence);
[[nodiscard]] float probability(float logOdds);

[[nodiscard]] const std::vector<Kind>& allKinds();
[[nodiscard]] bool isLine(Kind kind);  ///< long and thin: fibre, scratch, crack
[[nodiscard]] std::string word(Kind kind);
[[nodiscard]] std::string word(Polarity polarity);
[[nodiscard]] std::optional<Kind> kindFromWord(const std::string& text);
[[nodiscard]] std::optional<Polarity> polarityFromWord(const std::string& text);

}  // namespace gq::find
