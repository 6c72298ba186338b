#include "core/render/remnant.h"

#include <algorithm>

#include "core/find/find.h"

namespace gq::render {
namespace {

bool known(const series::Frame& frame, const series::MendEntry& mend, const Region& region) {
    const auto beside = [&](const Region& other) {
        return meets(other, region) && !meets(other, mend.mend.region);
    };
    return std::any_of(frame.mends.begin(), frame.mends.end(),
                       [&](const auto& m) { return m.id != mend.id && beside(m.mend.region); }) ||
           std::any_of(frame.findings.begin(), frame.findings.end(), [&](const auto& f) {
               return f.id != mend.finding && beside(f.finding.region);
           });
}

}  // namespace

Result<std::vector<find::Finding>> remnants(const Composition& mended, int bits,
                                            const series::Frame& frame,
                                            const series::MendEntry& mend,
                                            const find::FindPlan& plan, std::stop_token stop) {
    // Wide enough for Find to know what the picture is like there.
    constexpr int kAround = 320;
    const Region place = grown(mend::footprint(mend.mend, mended.size()), 3, mended.size());
    const Rect box = grown(place.box, kAround, mended.size());
    auto found = find::find({mended.part(box).clone(), bits}, plan, {}, {}, stop);
    if (!found) return tl::unexpected(found.error());
    std::vector<find::Finding> out;
    for (auto& f : *found) {
        f.region.box += box.tl();
        if (f.confidence >= plan.line && meets(f.region, place) && !known(frame, mend, f.region))
            out.push_back(std::move(f));
    }
    return out;
}

}  // namespace gq::render
