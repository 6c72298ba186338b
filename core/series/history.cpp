#include "core/series/history.h"

#include <algorithm>

namespace gq::series {

History::History(Series first)
    : m_versions{{std::make_shared<const Series>(std::move(first)), {}}} {}

History::History(std::vector<Version> versions, size_t at, long base)
    : m_versions(std::move(versions)), m_at(at), m_base(base) {
    keptSteps();
}

void History::commit(Series next, std::string what) {
    next.nextId = std::max(next.nextId, now()->nextId);
    m_versions.resize(m_at + 1);
    m_changedFrom = std::min(m_changedFrom, m_base + long(m_at) + 1);
    m_versions.push_back({std::make_shared<const Series>(std::move(next)), std::move(what)});
    ++m_at;
}

void History::amend(Series now) {
    m_versions[m_at].series = std::make_shared<const Series>(std::move(now));
}

void History::undo() {
    if (canUndo()) --m_at;
}

void History::redo() {
    if (canRedo()) ++m_at;
}

}  // namespace gq::series
