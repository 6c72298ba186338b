#pragma once
#include <stop_token>
#include <vector>

#include "core/mend/window.h"

namespace gq::mend {

struct RebuildSettings {
    int seed = 0;                             ///< another seed, another result; from 0
    std::vector<std::vector<PointF>> guides;  ///< window coordinates; an edge follows them
    Mask within;  ///< window coordinates; patches are copied from here alone. Empty = from anywhere
    int draftLevels = 0;  ///< finest levels left out: 2 = a quick preview
};

/// Completes a hole from patches of what is known, coarse to fine.
///
/// At each level patches of 7 x 7 px seek their like by PatchMatch; every pixel takes the vote of
/// the patches over it, the surer and the nearer to the rim counting more; a fourth plane (mean
/// steepness), completed with the colours, tells calm from busy texture. The last round copies, so
/// that grain stays, and what it copied is joined. Pixels near a guide only match pixels as far to
/// the same side of it outside the hole; without guides the picture's own straight edges are taken
/// for such (edge_guides.h) by every even seed, so that there is always a result to choose that
/// none of them shaped. Cost     about 10 us a hole pixel; memory 100 bytes a window pixel. Threads
/// parallel inside, equal bits for any number. Errors   Cancelled; NothingKnown as BadSetting, when
/// no patch of the window is whole. Source   Wexler, Shechtman, Irani, IEEE PAMI 29(3), 2007
/// (votes); Barnes et al., ACM TOG 28(3),
///          2009 (PatchMatch); Newson et al., SIAM J. Imaging Sciences 7(4), 2014 (texture plane).
[[nodiscard]] Status rebuild(Window& window, const std::vector<Point>& hole,
                             const RebuildSettings& settings, std::stop_token stop);

}  // namespace gq::mend
