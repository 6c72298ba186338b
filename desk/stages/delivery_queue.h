#pragma once
#include <QListWidget>

#include "desk/document/crops.h"
#include "desk/document/work.h"
#include "desk/stages/deliver_panel.h"

namespace gq::desk {

/// The queue: one row a frame, with the file it becomes and how that went; before a delivery, what
/// would be delivered. A double click opens a frame.
class DeliveryQueue : public QListWidget {
    Q_OBJECT
  public:
    struct Row {
        std::string frame;
        QString target;        ///< name of the file
        QString facts;         ///< mends, and findings still open
        QString looks, fault;  ///< what is to be looked at; empty if nothing
        QString state;
        QColor colour;  ///< of the state
    };

    DeliveryQueue(DeskDocument& document, Work& work, const DeliverPanel& panel, Crops& crops,
                  QWidget* parent = nullptr);
    [[nodiscard]] const Row& row(int index) const { return m_rows[size_t(index)]; }

  signals:
    void openFrame();

  protected:
    void showEvent(QShowEvent* e) override;

  private:
    void refresh();
    [[nodiscard]] Row rowOf(const series::Frame& frame, const QString& target) const;
    DeskDocument& m_document;
    Work& m_work;
    const DeliverPanel& m_panel;
    std::vector<Row> m_rows;
};

}  // namespace gq::desk
