#pragma once
#include <optional>

#include "core/pixels/image.h"

namespace gq::accuracy {

/// How near mended pixels come to the truth, over one set of places.
struct Fidelity {
    double plain = 0;      ///< PSNR, dB
    double structure = 0;  ///< PSNR after both pictures are blurred with sigma 1.5, dB
    double ssim = 0;       ///< mean over the places
    double texture = 0;  ///< median over places of fine detail inside over that of the truth there
    /// Step over the contour against the truth's steps over it moved 20 px away.
    std::optional<double> seam;
    int places = 0;
};

/// Compares `mended` with `truth` inside `where`, all of one size and 16 bits.
/// Texture is the deviation of luma less its blur (sigma 1.5); seam the median over places of the
/// mean step from the inner rim to those pixels of the outer one that bear no wear. Places
/// under 9 px have neither, those amid other wear no seam.
[[nodiscard]] Fidelity fidelity(const Image& mended, const Image& worn, const Image& truth,
                                const Mask& where);

}  // namespace gq::accuracy
