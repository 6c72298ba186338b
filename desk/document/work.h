#pragma once
#include <QObject>

#include "core/carry/roll_lines.h"
#include "core/render/export.h"
#include "desk/document/pictures.h"

namespace gq::desk {

/// The work of the stages: each runs in the background and ends in one undo step.
class Work : public QObject {
    Q_OBJECT
  public:
    Work(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent = nullptr);

    void findOn(const std::vector<std::string>& frames);
    void setLine(float line);
    void setPlan(const find::FindPlan& plan, const find::Sight& sight, bool skipUnseen);
    /// Shows the current frame as this positive; nothing = as scanned.
    void setInversion(const std::optional<film::Inversion>& inversion);
    /// The same while a slider is dragged: no step, and nothing to undo.
    void previewInversion(const film::Inversion& inversion);
    /// Takes the film base from a place of the current frame (mean over 15 px) and inverts it.
    void pickBase(const Image& original, PointF at);
    void findBases(const std::vector<std::string>& frames);  ///< and inverts where one is found
    void setOrigin(find::Origin origin);
    void setReference(const std::string& frame);

    void mend(const std::vector<series::Id>& findings);
    /// A line of the roll is mended, and left or reopened, on all of its frames.
    void mendOne(series::Id finding);
    void leave(series::Id finding);
    void mendAllAbove();
    void leaveThese(const std::vector<series::Id>& findings);
    void leaveAllAbove();
    void erase();                                               ///< deletes the chosen mends
    void setSource(series::Id entry, Point offset, bool done);  ///< previewed until done
    /// A place of the carry board: a mend of the reference on another frame.
    struct Cell {
        std::string frame;
        series::Id fromMend;
    };
    void accept(const std::vector<Cell>& cells);  ///< carried mends that needed a look
    void drop(const std::vector<Cell>& cells);    ///< their places are left alone

    void carry(const carry::CarryPlan& plan);
    /// Writes the dust that the series shows, as edited in the reference frame's ledger.
    void saveChart(const std::filesystem::path& file);
    /// Carries a chart to frames of the series, after matching it with what the series shows.
    void carryChart(const std::filesystem::path& file, const std::vector<std::string>& frames);
    /// Says what frames are for.
    void setPurpose(const std::vector<std::string>& frames, series::Purpose purpose);
    /// Those of `frames` that have the size of `like` lie on the sensor as told.
    void setCut(const std::vector<std::string>& frames, const series::Frame& like,
                const std::optional<carry::Cut>& cut);

    /// One frame's way through the export queue.
    struct Delivery {
        enum class State { Waiting, Writing, Done, Failed, Stopped };
        std::string frame;
        QString target, note;
        State state = State::Waiting;
    };
    void deliver(const std::vector<std::string>& frames, const std::filesystem::path& folder,
                 const render::DeliveryPlan& plan);
    [[nodiscard]] const std::vector<Delivery>& queue() const { return m_queue; }

    /// One undo step on the current frame; none if `change` returns false.
    using Edit = std::function<bool(series::Frame&, series::Id& next)>;
    void edit(const QString& what, const Edit& change);

  signals:
    void told(const QString& lines);  ///< worth knowing about what was done
    void carriedOver(int mended, int notVisible, int looks);
    void queueChanged();

  private:
    /// With a name it takes its time: progress is shown and it can be stopped.
    void mendParts(const carry::RollLine& parts, const QString& name);
    void takeCarried(const series::SeriesPtr& before, const series::Series& after,
                     const std::vector<std::string>& frames, const std::string& from);
    void editFrame(const std::string& id, const QString& what, const Edit& change);
    void setDelivery(size_t i, Delivery::State state, const QString& note);

    DeskDocument& m_document;
    Pictures& m_pictures;
    Jobs& m_jobs;
    std::vector<Delivery> m_queue;
};

}  // namespace gq::desk
