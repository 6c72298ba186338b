#pragma once
#include <map>

#include "core/series/gathering.h"
#include "desk/document/desk_document.h"

namespace gq::desk {

/// What Gather does to the list of frames, each in one undo step, and how their files stand: looked
/// at in the background when a series is opened, when its files are others, and when one comes back
/// to the window.
class GatherWork : public QObject {
    Q_OBJECT
  public:
    GatherWork(DeskDocument& document, Jobs& jobs, QObject* parent = nullptr);

    void takeOut(const std::string& frame);
    void order(series::Order order);
    /// Looks for missing files below `folder`, by their content.
    void locate(const std::filesystem::path& folder);
    /// Takes files that changed since they were gathered as they are now.
    void takeAsTheyAre();

    [[nodiscard]] series::FileState stateOf(const std::string& frame) const;
    [[nodiscard]] std::vector<std::string> framesIn(series::FileState state) const;

  signals:
    void statesChanged();
    void told(const QString& lines);

  private:
    void look();
    void lookIfOthers();

    DeskDocument& m_document;
    Jobs& m_jobs;
    std::vector<series::FramePtr> m_looked;            ///< the frames whose files were looked at
    std::map<std::string, series::FileState> m_amiss;  ///< by frame; the others are there
};

}  // namespace gq::desk
