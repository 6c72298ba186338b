#include "core/series/avoided.h"

#include <algorithm>

#include "core/find/hazes.h"
#include "core/series/lookup.h"

namespace gq::series {
namespace {

Region keptBy(const MendEntry& m, const Size& picture) {
    if (!mend::keepsPicture(m.mend.method)) return mend::footprint(m.mend, picture);
    return m.muted ? m.mend.region : Region();
}

}  // namespace

Avoided::Avoided(const Frame& frame, float line) {
    const Size& picture = frame.geometry.stored;
    const Lookup lookup(frame);
    for (const auto& m : frame.mends) m_mends.push_back({m.id, m.mend.region, keptBy(m, picture)});
    for (const auto& f : frame.findings)
        if (proposed(f, line) && lookup.stateOf(f) == State::Open &&
            !find::isHaze(f.finding, picture))  // the picture shows through
            m_findings.push_back(f.finding.region);
}

std::vector<Region> Avoided::by(Id except, const Rect& within) const {
    std::vector<Region> out;
    const auto near = [&](const Region& r) { return within.empty() || !(r.box & within).empty(); };
    const auto self =
        std::find_if(m_mends.begin(), m_mends.end(), [&](const auto& m) { return m.id == except; });
    for (const auto& m : m_mends)
        if (m.id != except && !m.kept.empty() && near(m.kept)) out.push_back(m.kept);
    for (const auto& r : m_findings)
        if (near(r) && !(self != m_mends.end() && meets(self->region, r))) out.push_back(r);
    return out;
}

}  // namespace gq::series
