#include "core/series/avoided.h"

#include <algorithm>
#include <cmath>

#include "core/find/hazes.h"
#include "core/mend/patch.h"
#include "core/series/lookup.h"

namespace gq::series {
namespace {

Region keptBy(const MendEntry& m, const Size& picture) {
    if (!mend::keepsPicture(m.mend.method)) return mend::footprint(m.mend, picture);
    return m.muted ? m.mend.region : Region();
}

void cut(mend::Mend& m, const Region& shield, const Size& picture) {
    if (shield.empty()) return;
    const int margin = m.method == mend::Method::EvenOut ? 0 : int(std::ceil(m.softness));
    m.region = without(m.region, grown(shield, margin, picture));
}

}  // namespace

Avoided::Avoided(const Frame& frame, float line)
    : m_guides(frame.guides), m_picture(frame.geometry.stored) {
    const Size& picture = m_picture;
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

Avoided::Laid Avoided::laid(Id id, const mend::Mend& mend) const {
    const Rect read = mend::readBox(mend, m_picture);
    Laid out{mend, by(id, read)};
    if (!m_guides) return out;
    if (auto shield = m_guides->shieldedIn(read, m_picture); !shield.empty()) {
        cut(out.mend, shield, m_picture);
        out.avoid.push_back(std::move(shield));
    }
    if (mend.method == mend::Method::Rebuild)
        if (auto bounds = m_guides->boundedIn(read, m_picture);
            2 * without(mend.region, bounds).area() < mend.region.area())
            out.mend.within = std::move(bounds);
    return out;
}

mend::Mend unshielded(const mend::Mend& mend, const Frame& frame) {
    mend::Mend out = mend;
    const Size& picture = frame.geometry.stored;
    if (frame.guides)
        cut(out, frame.guides->shieldedIn(mend::readBox(mend, picture), picture), picture);
    return out;
}

}  // namespace gq::series
