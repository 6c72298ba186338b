#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QListView>
#include <QPushButton>
#include <QSpinBox>
#include <QWidget>

#include "desk/document/crops.h"
#include "desk/document/work.h"
#include "desk/ledger/ledger_model.h"
#include "desk/ledger/mend_box.h"

namespace gq::desk {

/// The list of a frame's findings and mends with crops, the line, and what is done with them.
class LedgerPanel : public QWidget {
    Q_OBJECT
  public:
    LedgerPanel(DeskDocument& document, Work& work, MendWork& mends, Crops& crops,
                QWidget* parent = nullptr);
    void setMending(bool on);  ///< the stage is Mend: settings instead of the line
    void step(int by);         ///< selects the next or previous row
    void refresh();            ///< anything shown may have changed, the keys that words name too
    [[nodiscard]] LedgerModel& model() { return m_model; }

  signals:
    void entryChosen(gq::series::Id entry);

  private:
    void showLine();
    QWidget* makeFilter();
    void follow();

    DeskDocument& m_document;
    Work& m_work;
    LedgerModel m_model;
    QLabel *m_title, *m_line, *m_counts, *m_empty;
    std::array<QPushButton*, 3> m_chips{};
    QComboBox* m_kind;
    QSpinBox *m_leastSize, *m_leastSure;
    QCheckBox* m_onlySeen;
    QListView* m_list;
    MendBox* m_mendBox;
    QWidget *m_finder, *m_bulk;
    bool m_mending = false;
    QPushButton *m_leave, *m_mend, *m_leaveAll, *m_all;
    bool m_following = false;
};

}  // namespace gq::desk
