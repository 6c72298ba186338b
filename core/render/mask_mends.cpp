#include "core/render/mask_mends.h"

namespace gq::render {

series::Frame frameOfMask(const Mask& mask, int grow, std::optional<mend::Method> method,
                          int candidate) {
    series::Frame frame;
    series::Id id = 1;
    for (auto& piece : pieces(mask)) {
        mend::Mend m;
        m.region = grow > 0 ? grown(piece, grow, mask.size()) : std::move(piece);
        m.softness = 1;
        m.candidate = candidate;
        m.method = method.value_or(mend::methodFor(m.region));
        frame.mends.push_back({id++, std::move(m), 0, false});
    }
    return frame;
}

}  // namespace gq::render
