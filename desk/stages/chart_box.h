#pragma once
#include <QPushButton>
#include <QWidget>

#include "desk/document/work.h"

namespace gq::desk {

/// The camera's dust chart: made of this series, or one of an earlier series carried to it.
class ChartBox : public QWidget {
    Q_OBJECT
  public:
    ChartBox(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent = nullptr);

  private:
    void refresh();
    void save();
    void carry();
    DeskDocument& m_document;
    Work& m_work;
    Jobs& m_jobs;
    QPushButton *m_save, *m_carry;
};

}  // namespace gq::desk
