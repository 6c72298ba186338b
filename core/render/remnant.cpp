#include "core/render/remnant.h"

#include "core/find/find.h"

namespace gq::render {

Result<std::vector<find::Finding>> remnants(const Composition& mended, int bits,
                                            const mend::Mend& mend, const find::FindPlan& plan,
                                            float line, std::stop_token stop) {
    // Wide enough for Find to know what the picture is like there.
    constexpr int kAround = 320;
    const Region place = grown(mend::footprint(mend, mended.size()), 3, mended.size());
    const Rect box = grown(place.box, kAround, mended.size());
    auto found = find::find({mended.part(box).clone(), bits}, plan, {}, {}, stop);
    if (!found) return tl::unexpected(found.error());
    std::vector<find::Finding> out;
    for (auto& f : *found) {
        f.region.box += box.tl();
        const Rect in = f.region.box & place.box;
        if (f.confidence < line || in.empty()) continue;
        Mask both;
        cv::bitwise_and(f.region.mask(Rect(in.tl() - f.region.box.tl(), in.size())),
                        place.mask(Rect(in.tl() - place.box.tl(), in.size())), both);
        if (cv::countNonZero(both) * 2 > f.region.area()) out.push_back(std::move(f));
    }
    return out;
}

}  // namespace gq::render
