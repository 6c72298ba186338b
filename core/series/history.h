#pragma once
#include <string>
#include <vector>

#include "core/series/series.h"

namespace gq::series {

/// The versions of a series. Versions share what did not change, so a step costs little.
/// Threads: one thread at a time; versions handed out are immutable and may be read by any.
class History {
  public:
    explicit History(Series first);

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

  private:
    struct Version {
        SeriesPtr series;
        std::string what;
    };
    std::vector<Version> m_versions;
    size_t m_at = 0;
};

}  // namespace gq::series
