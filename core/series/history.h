#pragma once
#include <string>
#include <vector>

#include "core/series/series.h"

namespace gq::series {

/// The versions of a series. Versions share what did not change, so a step costs little.
/// Threads: one thread at a time; versions handed out are immutable and may be read by any.
class History {
  public:
    struct Version {
        SeriesPtr series;
        std::string what;  ///< the step that led here
    };
    explicit History(Series first);
    /// Versions of earlier work, the present one at `at`; `base` steps came before the first.
    History(std::vector<Version> versions, size_t at, long base);

    [[nodiscard]] SeriesPtr now() const { return m_versions[m_at].series; }
    /// A new version after the present one; undone ones are dropped. `what` names the step.
    void commit(Series next, std::string what);
    /// Replaces the present version without a step: for what is no work, like where one has looked.
    void amend(Series now);
    [[nodiscard]] bool canUndo() const { return m_at > 0; }
    [[nodiscard]] bool canRedo() const { return m_at + 1 < m_versions.size(); }
    [[nodiscard]] std::string undoName() const {
        return canUndo() ? m_versions[m_at].what : std::string();
    }
    [[nodiscard]] std::string redoName() const {
        return canRedo() ? m_versions[m_at + 1].what : std::string();
    }
    void undo();
    void redo();

    [[nodiscard]] const std::vector<Version>& versions() const { return m_versions; }
    [[nodiscard]] size_t at() const { return m_at; }
    [[nodiscard]] long base() const { return m_base; }
    /// The first step that changed since `keptSteps` was called; steps count from base + 1.
    [[nodiscard]] long changedFrom() const { return m_changedFrom; }
    void keptSteps() { m_changedFrom = m_base + long(m_versions.size()); }

  private:
    std::vector<Version> m_versions;
    size_t m_at = 0;
    long m_base = 0, m_changedFrom = 1;
};

}  // namespace gq::series
