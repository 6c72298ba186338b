#include "core/render/mask_mends.h"

namespace gq::render {

series::Frame frameOfMask(const Mask& mask, int grow, std::optional<mend::Method> method,
                          int candidate) {
    series::Frame frame;
    frame.geometry.stored = mask.size();
    series::Id id = 1;
    for (auto& piece : pieces(mask)) {
        mend::Mend m;
        m.region = grow > 0 ? grown(piece, grow, mask.size()) : std::move(piece);
        m.candidate = candidate;
        m.method = method.value_or(mend::methodFor(m.region));
        m.softness = m.method == mend::Method::Rebuild ? 2 : 1;
        frame.mends.push_back({id++, std::move(m), 0, false});
    }
    return frame;
}

}  // namespace gq::render
