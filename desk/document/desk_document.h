#pragma once
#include <QObject>
#include <QTimer>
#include <filesystem>
#include <memory>
#include <optional>
#include <set>

#include "core/carry/chart.h"
#include "core/series/history_file.h"
#include "core/series/series_folder.h"
#include "desk/jobs/jobs.h"

namespace gq::desk {

/// The open series: its versions, its folder on disk (autosaved within two seconds of an edit), the
/// frame being looked at, the selected entry and the ticked frames. Window's thread only.
class DeskDocument : public QObject {
    Q_OBJECT
  public:
    explicit DeskDocument(Jobs& jobs, QObject* parent = nullptr);
    ~DeskDocument() override;  ///< saves what is not saved yet

    /// Opens a series folder, or a folder or list of pictures (whose series is made beside them).
    /// Runs in the background; `opened` or `failed` follows. What was open is saved, and its jobs
    /// are ended, before; while one of them shows another series is not opened.
    void open(const std::vector<std::filesystem::path>& paths);
    void addFrames(const std::vector<std::filesystem::path>& files);

    [[nodiscard]] bool isOpen() const { return m_history != nullptr; }
    [[nodiscard]] series::SeriesPtr now() const;
    [[nodiscard]] const std::filesystem::path& folder() const { return m_folder; }
    /// The line as it is shown: while it is dragged, where the hand holds it.
    [[nodiscard]] float line() const;
    void previewLine(std::optional<float> line);
    void commit(series::Series next, const QString& what);
    void amend(series::Series now);  ///< a change that is no step
    void undo();
    void redo();
    using Charts = std::vector<carry::DustChart>;
    /// What searches of several frames told of their sensors; never null.
    [[nodiscard]] std::shared_ptr<const Charts> charts() const { return m_charts; }
    void setCharts(Charts charts);  ///< that are kept in the folder already
    [[nodiscard]] const series::History* history() const { return m_history.get(); }
    [[nodiscard]] bool saved() const {
        return m_savedSeries == (m_history ? m_history->now() : nullptr);
    }

    [[nodiscard]] series::FramePtr current() const;
    void setCurrent(const std::string& frame);
    /// The selected finding or mend of the current frame; a mended finding and its mend count as
    /// one.
    [[nodiscard]] series::Id selected() const { return m_selected; }
    void select(series::Id entry);
    /// Several mends chosen at once; the first is the selected one.
    void selectMends(const std::vector<series::Id>& mends);
    void toggleMend(series::Id mend);
    [[nodiscard]] std::vector<series::Id> chosenMends() const;
    [[nodiscard]] const series::MendEntry* selectedMend() const;
    [[nodiscard]] const series::FindingEntry* selectedFinding() const;

    [[nodiscard]] bool ticked(const std::string& frame) const {
        return m_unticked.count(frame) == 0;
    }
    void setTicked(const std::string& frame, bool on);
    [[nodiscard]] std::vector<std::string> tickedFrames() const;

  signals:
    void leaving();  ///< another series is about to take this one's place
    void opened();
    void changed();  ///< the series has a new version
    void currentChanged();
    void selectionChanged();
    void ticksChanged();
    void chartsChanged();
    void lineMoved();  ///< `line()` changed without an edit
    void saveStateChanged();
    void failed(const gq::Error& error);

  private:
    struct Opening {
        std::optional<series::History> history;
        std::filesystem::path folder;
        std::unique_ptr<series::FolderLock> lock;
        Charts charts;
        std::vector<Error> faults;
    };
    static Result<Opening> load(const std::vector<std::filesystem::path>& paths,
                                const Progress& progress, std::stop_token stop);
    void adoptOnceSaved(std::shared_ptr<Opening> opening);
    void adopt(Opening opening);
    void afterChange();
    void save();

    Jobs& m_jobs;
    std::unique_ptr<series::History> m_history;
    std::filesystem::path m_folder;
    std::unique_ptr<series::FolderLock> m_lock;
    series::SeriesPtr m_savedSeries;
    std::shared_ptr<const Charts> m_charts = std::make_shared<const Charts>();
    long m_unkeptFrom = 1;  ///< first step of the history that could not be written
    QTimer m_saveTimer;
    bool m_saving = false;
    std::shared_ptr<Opening> m_next;  ///< takes the place of what is open once that is saved
    std::string m_current;
    std::optional<float> m_previewLine;
    series::Id m_selected = 0;
    std::vector<series::Id> m_also;  ///< chosen besides the selected one
    std::set<std::string> m_unticked;
};

}  // namespace gq::desk
