#pragma once
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
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
    /// The frames that would be delivered now, and the files they would become.
    [[nodiscard]] std::vector<std::pair<std::string, std::filesystem::path>> plannedFiles() const;
    /// A file that is there and is not to be replaced.
    [[nodiscard]] bool wouldStay(const std::filesystem::path& file) const;
    /// What is planned is being delivered, or was.
    [[nodiscard]] bool isStarted() const;

  signals:
    void planned();  ///< something about what would be delivered has changed

  private:
    void refresh();
    [[nodiscard]] std::vector<std::string> frames() const;
    [[nodiscard]] std::filesystem::path folder() const;
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

}  // namespace gq::desk
