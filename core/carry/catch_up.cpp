#include "core/carry/catch_up.h"

#include <algorithm>

namespace gq::carry {

using series::CarriedEntry;
using series::Frame;
using series::Id;

KeyedReference::KeyedReference(const Frame& reference) : frame(reference) {
    for (const auto& m : reference.mends) keys.push_back(mend::contentKey(m.mend));
}

Behind behind(const KeyedReference& keyed, const Frame& target) {
    const Frame& reference = keyed.frame;
    Behind out;
    const auto from = [&](Id mend) {
        const auto it = std::find_if(
            target.carried.begin(), target.carried.end(),
            [&](const auto& c) { return c.fromFrame == reference.id && c.fromMend == mend; });
        return it == target.carried.end() ? nullptr : &*it;
    };
    const Size sensor = reference.geometry.sensorSize();
    const FrameGeometry there = laidOn(sensor, target).geometry;
    const auto lands = [&](const Region& region) {  // a smaller picture may not show the place
        return there.stored == sensor ||
               !gq::carried(region, laidOn(sensor, reference).geometry, there).empty();
    };
    for (size_t i = 0; i < reference.mends.size(); ++i) {
        const auto& m = reference.mends[i];
        if (m.muted) continue;
        const CarriedEntry* known = from(m.id);
        if (!known && !lands(m.mend.region)) continue;
        if (!known || known->fromKey != keyed.keys[i]) out.mends.push_back(m.id);
    }
    for (const auto& c : target.carried) {
        if (c.fromFrame != reference.id) continue;
        const auto* m = reference.mend(c.fromMend);
        if (!m || m->muted) out.gone.push_back(c.fromMend);
    }
    return out;
}

Result<Frame> caughtUp(const Image& pixels, const Frame& reference, const Frame& target, float line,
                       Id& nextId, const Shadows& shadows, bool unshade, std::stop_token stop) {
    const Behind lacks = behind(KeyedReference(reference), target);
    Frame out = target;
    const auto isGone = [&](const CarriedEntry& c) {
        return c.fromFrame == reference.id &&
               std::find(lacks.gone.begin(), lacks.gone.end(), c.fromMend) != lacks.gone.end();
    };
    for (const auto& c : target.carried)
        if (isGone(c)) std::erase_if(out.mends, [&](const auto& m) { return m.id == c.mend; });
    std::erase_if(out.carried, isGone);
    if (lacks.mends.empty()) return out;
    CarryPlan plan{reference.id, lacks.mends, {target.id}};
    plan.existing = Existing::Add;
    plan.unshade = unshade;
    return carryTo(pixels, reference, out, plan, line, nextId, shadows, stop);
}

}  // namespace gq::carry
