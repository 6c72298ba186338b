#include "core/series/lookup.h"

namespace gq::series {
namespace {

template <class Entry>
const Entry* get(const std::unordered_map<Id, const Entry*>& entries, Id id) {
    const auto it = entries.find(id);
    return it == entries.end() ? nullptr : it->second;
}

}  // namespace

Lookup::Lookup(const Frame& frame) {
    for (const auto& f : frame.findings) m_findings.emplace(f.id, &f);
    for (const auto& m : frame.mends)
        if (m.finding) m_mends.emplace(m.finding, &m);
}

const FindingEntry* Lookup::finding(Id id) const {
    return get(m_findings, id);
}

const MendEntry* Lookup::mendOf(Id finding) const {
    return get(m_mends, finding);
}

State Lookup::stateOf(const FindingEntry& finding) const {
    return series::stateOf(finding, mendOf(finding.id));
}

}  // namespace gq::series
