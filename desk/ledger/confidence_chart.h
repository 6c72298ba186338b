#pragma once
#include <QWidget>

#include "desk/document/work.h"

namespace gq::desk {

/// How many findings have which confidence, with the line as a handle to drag (or the arrow keys).
class ConfidenceChart : public QWidget {
    Q_OBJECT
  public:
    ConfidenceChart(DeskDocument& document, Work& work, QWidget* parent = nullptr);
    [[nodiscard]] QSize sizeHint() const override { return {260, 52}; }

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent* e) override;

  private:
    void dragTo(double x);
    DeskDocument& m_document;
    Work& m_work;
};

}  // namespace gq::desk
