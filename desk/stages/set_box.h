#pragma once
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desk/document/work.h"

namespace gq::desk {

/// What the current frame is for (alone, bracket, focus stack, panorama), and what its set makes
/// together.
class SetBox : public QWidget {
    Q_OBJECT
  public:
    SetBox(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent = nullptr);
    /// Joins the current frame's panorama into a file and adds it to the series.
    void join(const QString& file);

  private:
    void refresh();
    void choose(int purpose);
    void together();  ///< the preview, or the join
    void preview();
    void askCut();
    DeskDocument& m_document;
    Work& m_work;
    Jobs& m_jobs;
    QComboBox* m_purpose;
    QLabel* m_note;
    QPushButton *m_go, *m_cut;
};

}  // namespace gq::desk
