#include "core/render/seamless.h"

#include "core/mend/checks.h"
#include "core/mend/patch.h"

namespace gq::render {
namespace {

/// Step over the mend's edge once it is laid; as good as none where it cannot be made.
float seamOf(const Image& pixels, const std::vector<Region>& avoid, const mend::Mend& m,
             std::stop_token stop) {
    const auto patch = mend::makePatch({pixels, avoid}, m, stop);
    if (!patch) return 1e9f;
    const Rect box = mend::checkBox(m, *patch, pixels.size());
    Image near = pixels(box).clone();
    mend::lay(*patch, near, box.tl());
    return mend::checked({near, box.tl(), pixels.size()}, m, *patch).seam;
}

}  // namespace

mend::Mend seamless(const Image& pixels, const std::vector<Region>& avoid, const mend::Mend& mend,
                    std::stop_token stop) {
    using enum mend::Method;
    if ((mend.method != Heal && mend.method != Span) || mend.source) return mend;
    mend::Mend best = mend;
    float least = seamOf(pixels, avoid, mend, stop);
    std::vector<mend::Mend> tries(4, mend);
    tries[0].softness = mend.softness * 1.5f + 1;
    for (int i = 1; i < 4; ++i) tries[size_t(i)].candidate = i;
    for (const auto& other : tries) {
        if (!mend::Checks{least, 0}.seamShows() || stop.stop_requested()) break;
        const float seam = seamOf(pixels, avoid, other, stop);
        if (seam < least) least = seam, best = other;
    }
    return best;
}

}  // namespace gq::render
