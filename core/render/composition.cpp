#include "core/render/composition.h"

#include <algorithm>

namespace gq::render {

Image Composition::part(const Rect& box) const {
    const auto touches = [&](const PatchPtr& p) { return !(p->box & box).empty(); };
    if (std::none_of(m_patches.begin(), m_patches.end(), touches)) return m_original(box);
    Image out = m_original(box).clone();
    for (const auto& p : m_patches)
        if (touches(p)) mend::lay(*p, out, box.tl());
    return out;
}

void Composition::layOn(Image& pixels) const {
    for (const auto& p : m_patches) mend::lay(*p, pixels);
}

}  // namespace gq::render
