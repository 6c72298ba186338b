#pragma once
#include <QObject>
#include <QTimer>

#include "core/mend/checks.h"
#include "desk/document/work.h"

namespace gq::desk {

/// "Even out" and the like.
[[nodiscard]] QString nameOf(mend::Method method);

/// What is done with mends made by hand and with chosen ones; each is one undo step of the current
/// frame. Settings apply to all chosen mends at once.
class MendWork : public QObject {
    Q_OBJECT
  public:
    MendWork(DeskDocument& document, Pictures& pictures, Work& work, Jobs& jobs,
             QObject* parent = nullptr);

    /// Adds a mend and selects it.
    void add(mend::Mend mend, const QString& what);
    /// Adds a mend along the line that runs through a place; nothing where there is none.
    void followLine(PointF at);
    /// Adds a mend over all of about the same tone that is connected with a place.
    void takeSimilar(PointF at, float softness);
    /// Adds to or takes from the selected mend's region.
    void reshape(const Region& region, bool take);
    void grow(int by);  ///< the chosen mends' regions by 1 px and more; negative = shrink
    void nudge(Point by);
    void addGuide(const std::vector<PointF>& line);  ///< to the selected Rebuild

    using Setting = std::function<void(mend::Mend&)>;
    void change(const QString& what, const Setting& setting);  ///< of all chosen mends
    void preview(const Setting& setting);                      ///< the same, shown only
    void setMuted(bool muted);
    void setGroup(const QString& name);
    void reorder(int by);  ///< laid earlier (-1) or later (1)
    void split();          ///< the selected mend where two materials meet
    void growOverLeft();   ///< takes in what the outline left outside
    void mendRest();       ///< new mends for what Find still sees at the place
    /// The selected mend's next result; of Heal and Clone one that is not seen, where there is one.
    void another();
    /// Makes the selected mend of what another frame of the scene shows there: of its own set
    /// first, then of the nearest in the series. What cannot be had is said.
    void lendFromAnotherFrame();
    void duplicate();  ///< the chosen mends to the ticked frames of the same size

    /// A look at the selected mend.
    struct Report {
        series::Id mend = 0;
        mend::Checks checks;
        Region left;                         ///< outside of the outline
        std::vector<find::Finding> remnant;  ///< still seen
        bool twoMaterials = false;
    };
    [[nodiscard]] const Report& report() const { return m_report; }
    [[nodiscard]] bool settled() const { return !m_calm.isActive(); }
    /// The first results of the selected Rebuild, as far as they are drawn.
    [[nodiscard]] const std::vector<QImage>& candidates() const { return m_candidates; }

  signals:
    void reported();
    void candidatesDrawn();

  private:
    void look();
    [[nodiscard]] std::uint64_t choice() const;
    void drawCandidates();
    void dropCandidates();
    /// Adds what `make` makes of the frame's own picture, unless another frame is shown by then.
    void addMade(const QString& name, const QString& what,
                 std::function<mend::Mend(const Image&)> make);
    DeskDocument& m_document;
    Pictures& m_pictures;
    Work& m_work;
    Jobs& m_jobs;
    Report m_report;
    render::PatchPtr m_looked;  ///< the patch the report is about
    std::vector<QImage> m_candidates;
    std::uint64_t m_candidatesOf = 0;  ///< the mend they are results of; 0 = none
    std::stop_source m_stop, m_drawStop;
    QTimer m_calm;  ///< a look is taken once the hand rests
};

}  // namespace gq::desk
