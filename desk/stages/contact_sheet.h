#pragma once
#include <QListView>

#include "desk/frames/frame_column.h"

namespace gq::desk {

/// All frames at a glance; takes dropped files and folders. A double click opens a frame in Find.
class ContactSheet : public QListView {
    Q_OBJECT
  public:
    ContactSheet(DeskDocument& document, FrameModel& model, Crops& crops,
                 QWidget* parent = nullptr);

  signals:
    void openFrame();
    void takeOut();                    ///< the current frame
    void menuAsked(const QPoint& at);  ///< about the current frame, at a place of the screen

  protected:
    void dragEnterEvent(QDragEnterEvent* e) override;
    void dragMoveEvent(QDragMoveEvent* e) override;
    void dropEvent(QDropEvent* e) override;
    void paintEvent(QPaintEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;

  private:
    DeskDocument& m_document;
    FrameModel& m_frames;
};

}  // namespace gq::desk
