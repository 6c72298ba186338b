#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desk/document/work.h"
#include "desk/jobs/jobs.h"

namespace gq::desk {

/// Says exactly what will be carried where, and what came of it.
class CarryPanel : public QWidget {
    Q_OBJECT
  public:
    CarryPanel(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent = nullptr);
    void carry();

  signals:
    void onlyLooks(bool on);

  private:
    void refresh();
    [[nodiscard]] std::vector<std::string> targets() const;
    DeskDocument& m_document;
    Work& m_work;
    Jobs& m_jobs;
    QLabel *m_title, *m_what, *m_where, *m_mended, *m_hidden, *m_looks, *m_refused;
    QComboBox *m_source, *m_existing;
    QCheckBox* m_only;
    QPushButton* m_go;
};

}  // namespace gq::desk
