#pragma once
#include <map>
#include <memory>
#include <stop_token>
#include <vector>

#include "core/mend/patch.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::render {

using PatchPtr = std::shared_ptr<const mend::Patch>;

/// Lays a frame's mends on its pixels, in order, each reading the earlier ones. Patches are kept
/// by a key of all they depend on (the mend, what it avoids, the patches it reads), so a changed
/// mend makes anew only what its footprint or source feeds.
/// Threads  one call at a time; parallel inside.
class Composer {
  public:
    /// What changed between two compositions.
    struct Outcome {
        Image pixels;               ///< the frame with its mends; shares nothing with the original
        std::vector<Rect> changed;  ///< boxes that differ from the composition before
        std::map<series::Id, PatchPtr> patches;
        std::vector<Error> faults;  ///< mends that could not be made, which were left out
    };
    /// `original` must stay the same between calls. Errors: Cancelled.
    [[nodiscard]] Result<Outcome> compose(const Image& original, const series::Frame& frame,
                                          float line, const Progress& progress = {},
                                          std::stop_token stop = {});

  private:
    struct Kept {
        std::uint64_t key;
        PatchPtr patch;
    };
    std::map<series::Id, Kept> m_kept;
};

/// One composition without keeping anything. Errors: Cancelled, or the first fault of a mend.
[[nodiscard]] Result<Image> composed(const Image& original, const series::Frame& frame, float line,
                                     std::stop_token stop = {});

}  // namespace gq::render
