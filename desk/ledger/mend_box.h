#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>

#include "desk/bench/tray.h"
#include "desk/document/mend_work.h"

namespace gq::desk {

/// The settings of the chosen mends under the ledger: method, edge, strength, grain, what a placed
/// source, Sift, Touch-in or Rebuild need besides, and what a check says of the selected one.
class MendBox : public QWidget {
    Q_OBJECT
  public:
    MendBox(DeskDocument& document, MendWork& mends, QWidget* parent = nullptr);

  private:
    using Take = std::function<void(mend::Mend&, int)>;
    ValueSlider* slider(const QString& name, int least, int most, const QString& step, Take take);
    QWidget* row(const std::vector<QWidget*>& parts);
    QPushButton* button(const QString& words, const QString& help, const char* name);
    void makeSettings(class QVBoxLayout& all);
    void makeActions(QVBoxLayout& all);
    void refresh();
    void showReport();
    void showCandidates();
    void openMore();

    DeskDocument& m_document;
    MendWork& m_mends;
    QLabel *m_title, *m_report;
    QComboBox* m_method;
    ValueSlider *m_softness, *m_strength, *m_grain, *m_turn, *m_scale, *m_largest, *m_contrast;
    QCheckBox *m_mirror, *m_light, *m_dark;
    QPushButton *m_tone, *m_mute, *m_fix, *m_more;
    QWidget *m_placedRow, *m_siftRow, *m_toneRow, *m_candidateRow;
    std::array<QPushButton*, 4> m_candidates{};
};

}  // namespace gq::desk
