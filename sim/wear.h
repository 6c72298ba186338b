#pragma once
#include <string>
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/result.h"
#include "sim/wear_shapes.h"

namespace gq::sim {

/// What a picture lies on, and so what harms it.
enum class Medium { Sensor, Negative, Positive, Print };
enum class WearKind { Shadow, Haze, Speck, Fibre, Scratch, Crack, Crease, Foxing, Stain, Loss };

struct WearPlan {
    Medium medium = Medium::Sensor;
    std::uint32_t seed = 1;
    float amount = 1;  ///< 1 = a neglected picture; the number of pieces scales with it
    float grain = 0;   ///< deviation of grain laid over clean and worn alike, of 0..1
    /// 0..1: tones of an odd scanner, coarser grain (not on sensors), each piece in its own
    /// softness and tint, stains of every sort; on sensors, more hairs
    float variety = 0;
    bool harm = false;  ///< prints: creases, foxing, stains and losses too; sensors: haze
};

/// One thing that harms the picture.
struct WearPiece {
    WearKind kind = WearKind::Speck;
    Cover cover;
    float strength = 1;  ///< opacity, or share of light held back, at full cover
};

/// A picture before and after, with the true places.
struct Worn {
    Image clean;  ///< with its grain
    Image worn;
    std::vector<WearPiece> pieces;

    /// 255 where something of `kind` covers at least 15 % of what it does at full strength.
    [[nodiscard]] Mask map(WearKind kind) const;
    [[nodiscard]] Mask map() const;  ///< of all kinds
};

/// Lays scratches along given runs, as `wear` does single ones: `tone` 0 dark .. 1 light.
void layScratch(Worn& worn, const std::vector<StrokePoint>& run, float tone, float opacity);

/// Wears a 16-bit picture (1 or 3 channels) at random but repeatably. Dust on sensors and film dims
/// or hides light in linear light; on prints pigment is lost or covered.
/// Cost: O(picture). Threads: re-entrant.
[[nodiscard]] Worn wear(const Image& clean, const WearPlan& plan);

[[nodiscard]] std::string word(WearKind kind);
[[nodiscard]] const std::vector<WearKind>& allWearKinds();

}  // namespace gq::sim
