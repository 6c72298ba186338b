#pragma once
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include "desk/document/work.h"

namespace gq::desk {

/// Gather's panel: what the series is, its origin, and the frame that is looked at.
class SeriesPanel : public QWidget {
    Q_OBJECT
  public:
    SeriesPanel(DeskDocument& document, Work& work, QWidget* parent = nullptr);

  signals:
    void addFrames();
    void goFind();

  private:
    void refresh();
    DeskDocument& m_document;
    Work& m_work;
    QLabel *m_title, *m_facts, *m_frameTitle, *m_frameFacts;
    QComboBox* m_origin;
    QPushButton* m_reference;
};

/// A title in the manner of all panels.
[[nodiscard]] QLabel* sectionTitle(const QString& text);

}  // namespace gq::desk
