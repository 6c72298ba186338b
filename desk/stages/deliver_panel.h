#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QSpinBox>
#include <QWidget>

#include "desk/document/work.h"
#include "desk/jobs/jobs.h"

namespace gq::desk {

/// Format, folder and the button that starts the queue.
class DeliverPanel : public QWidget {
    Q_OBJECT
  public:
    DeliverPanel(DeskDocument& document, Work& work, Jobs& jobs, QWidget* parent = nullptr);
    void deliver();

  private:
    void refresh();
    [[nodiscard]] std::vector<std::string> frames() const;
    [[nodiscard]] render::DeliveryPlan plan() const;
    DeskDocument& m_document;
    Work& m_work;
    Jobs& m_jobs;
    QLabel *m_what, *m_quality, *m_promise;
    QComboBox* m_format;
    QSpinBox* m_jpeg;
    QLineEdit* m_folder;
    QCheckBox *m_rawToo, *m_replace;
    QPushButton* m_go;
};

/// The queue: one row a file, with how it went; before the first delivery, what would be in it.
class DeliveryQueue : public QListWidget {
    Q_OBJECT
  public:
    DeliveryQueue(DeskDocument& document, Work& work, QWidget* parent = nullptr);

  private:
    void refresh();
    void preview();
    DeskDocument& m_document;
    Work& m_work;
};

}  // namespace gq::desk
