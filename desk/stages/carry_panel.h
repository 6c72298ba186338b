#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desk/document/live_carry.h"
#include "desk/document/work.h"
#include "desk/jobs/jobs.h"

namespace gq::desk {

/// Chooses and says exactly what will be carried where and how, and what came of it.
class CarryPanel : public QWidget {
    Q_OBJECT
  public:
    CarryPanel(DeskDocument& document, Work& work, LiveCarry& live, Jobs& jobs,
               QWidget* parent = nullptr);
    void carry();

  signals:
    void onlyLooks(bool on);

  private:
    void refresh();
    void refreshWhat(const series::Frame& reference);
    [[nodiscard]] std::vector<series::Id> chosen(const series::Frame& reference) const;
    [[nodiscard]] std::vector<std::string> targets() const;
    DeskDocument& m_document;
    Work& m_work;
    LiveCarry& m_live;
    Jobs& m_jobs;
    QLabel *m_title, *m_whatNote, *m_whereNote, *m_mended, *m_hidden, *m_looks, *m_refused;
    QLabel* m_shadowsName;
    QComboBox *m_what, *m_where, *m_source, *m_shadows, *m_existing;
    QCheckBox *m_only, *m_asIGo;
    QPushButton* m_go;
};

}  // namespace gq::desk
