#pragma once
#include <stop_token>
#include <vector>

#include "core/mend/mend.h"
#include "core/pixels/excerpt.h"

namespace gq::mend {

/// The pixels a mend gives its frame.
struct Patch {
    Rect box;
    Image pixels;        ///< 16 bits, ready to be copied where `footprint` is set
    Mask footprint;      ///< box.size()
    Point source{0, 0};  ///< offset of the source it used (the best one of several)
    float misfit = 0;    ///< how far the source's surroundings are from the place's, 0..1
    float change = 0;    ///< mean departure of the patch from what was there, 0..1
};
using PatchPtr = std::shared_ptr<const Patch>;

/// What a mend may look at.
struct Setting {
    Excerpt pixels;                    ///< 16 bits; earlier mends already in it
    const std::vector<Region>& avoid;  ///< other findings and mends, shields
    bool draft = false;                ///< a quick preview will do (Rebuild)
};

/// The box of pixels a mend's result depends on; all that `makePatch` needs of the picture.
[[nodiscard]] Rect readBox(const Mend& mend, const Size& picture);

/// Works a mend out.
/// Edges    sources stay inside the picture.
/// Owns     nothing; `pixels` is only read.
/// Cost     about 15 us a footprint pixel.
/// Threads  re-entrant; one thread a call.
/// Errors   BadSetting (empty region, source outside the picture), Cancelled.
[[nodiscard]] Result<Patch> makePatch(const Setting& setting, const Mend& mend,
                                      std::stop_token stop = {});

/// The share of light an Unshade divides out with its opacity, known or measured in the frame; null
/// for other methods, and where too little shines through to divide.
/// Threads  re-entrant. Errors: Cancelled.
[[nodiscard]] Result<KnownShadePtr> shadeOf(const Setting& setting, const Mend& mend,
                                            std::stop_token stop = {});

/// Copies the patch, inside its footprint only, into a picture or into the part of one that begins
/// at `origin`; what falls outside is left out.
void lay(const Patch& patch, Image& pixels, Point origin = {0, 0});

}  // namespace gq::mend
