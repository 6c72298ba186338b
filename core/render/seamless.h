#pragma once
#include <stop_token>

#include "core/mend/patch_store.h"
#include "core/render/composition.h"

namespace gq::render {

/// The mend with the softness and source under which it is least seen: as it is when its edge and
/// texture pass; else the first of a wider softness and another source that passes, else the best
/// of them. Only methods that replace texture are tried; a placed source is kept.
/// `avoid` as of mend::Setting; `made` takes the patch of what is returned. Threads: re-entrant;
/// one patch a try. Cost: that of one patch where the first one passes.
[[nodiscard]] mend::Mend seamless(const Image& pixels, const std::vector<Region>& avoid,
                                  const mend::Mend& mend, mend::PatchStore* made = nullptr,
                                  std::stop_token stop = {});

/// The mend with its next result instead of a placed or lent source: of Heal and Clone the first of
/// the next six whose edge is not seen and whose texture is not twice in sight, if there is one.
/// `others` is the picture with its other mends; `avoid` as of mend::Setting. Threads: re-entrant.
[[nodiscard]] mend::Mend anotherResult(const Composition& others, const std::vector<Region>& avoid,
                                       const mend::Mend& mend, std::stop_token stop = {});

}  // namespace gq::render
