#pragma once
#include "core/pixels/image.h"

namespace gq::render {

/// How a picture is shown while looking for blemishes. Never changes the picture.
/// Sought shows what Find sees: each tone's departure from its surroundings in units of the local
/// noise, by a fine and a coarser look, so that what is small and what is large stands out, in sky
/// and grass.
enum class Light { Plain, Raking, Low, Deep, Sought };

struct ViewingLight {
    Light light = Light::Plain;
    float reach =
        24;  ///< of Raking: width of the surroundings a tone is compared with, full-size px, 4..96
    float gain = 6;  ///< of Raking: how much local contrast is raised, 1..20
};

/// Pixels around a tile that its light needs, in pixels of the tile's level.
[[nodiscard]] int margin(const ViewingLight& light, int level);

/// The tile in that light. `tile` is 8-bit colour of pyramid level `level`, with its margin around
/// it.
[[nodiscard]] Image8 lit(const Image8& tile, const ViewingLight& light, int level);

}  // namespace gq::render
