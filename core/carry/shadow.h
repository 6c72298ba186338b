#pragma once
#include <vector>

#include "core/carry/presence.h"
#include "core/mend/mend.h"
#include "core/series/series.h"

namespace gq::carry {

/// The light one grain of dust holds back, worked out from many frames.
struct Shadow {
    Rect box;             ///< sensor coordinates
    ImageF held;          ///< share of the light held back at the smallest opening, 0..1
    ImageF doubt;         ///< spread of the frames about `held` over the root of their number: what
                          ///< scatter leaves open, not what all frames share
    double aperture = 0;  ///< f-number of that opening; 0 = not told
    float spread = 0;     ///< px; at f/N the shadow is softened by a Gaussian of sigma spread / N,
                          ///< whether or not the frames tell their openings
    int frames = 0;       ///< frames that told of it
    std::vector<Witness> witnesses;  ///< whether it lay there when they were taken

    [[nodiscard]] bool empty() const { return held.empty(); }
};

inline constexpr float kLeastShare = 0.0015f;  ///< held back; less is not divided out
inline constexpr float kLeastNoise = 0.004f;   ///< of a frame, whatever its surroundings
inline constexpr float kLearntBlur = 0.8f;  ///< px, sigma: of frames' tones, and of what is learnt

/// Natural logarithm of the share let through at f/`aperture`, over the shadow's box. A wider
/// opening makes it larger, softer and fainter; a smaller one than was seen leaves it as it is.
/// `softer`: px, sigma of a blur besides.
[[nodiscard]] ImageF logShareAt(const Shadow& shadow, double aperture, float softer = 0);

/// A share of light as a series would show it: through the two slight blurs (of the frames' tones,
/// and of the result) that `fitShadow` takes off again.
[[nodiscard]] ImageF blurredAsLearnt(const ImageF& share);

/// What a frame says of a known shadow.
struct ShadowFit {
    mend::Mend mend;      ///< Unshade with the frame's own depth; its region is empty where nothing
                          ///< shines through
    bool clean = true;    ///< what dividing it out leaves does not stand out from its surroundings;
                          ///< if it does, they are calm, and know better what lies there
    bool untold = false;  ///< the frame is black or blown out there, and does not tell
    bool shows = false;   ///< it is likelier to be there than not, by the frame's slopes and what
                          ///< other frames tell, and dims what can be seen
    float strength = 1;   ///< what is divided out: as seen, drawn towards 1 by the doubt

    /// True if it shows and is best divided out.
    [[nodiscard]] bool divides() const { return shows && clean && !mend.region.empty(); }
};

/// Fits a known shadow to a frame: its opening by the frame's f-number, its softness and depth by
/// what the frame shows, the depth drawn towards the known one by as much as is left in doubt.
/// Checked  on the demo series and four of photographs: of 1584 shadows that lie in a frame 1478
///          show; of 100 that had gone by then, with five frames after them to tell, 14.
/// Threads: re-entrant.
[[nodiscard]] ShadowFit fitShadow(const Shadow& shadow, const Image& pixels,
                                  const series::Frame& frame);

}  // namespace gq::carry
