#pragma once
#include <QLabel>
#include <QListView>
#include <QStyledItemDelegate>
#include <QWidget>

#include "desk/frames/frame_model.h"

namespace gq::desk {

/// Paints a frame: thumbnail upright, tick box where frames are chosen, pennant, bar, name, flag.
class FrameDelegate : public QStyledItemDelegate {
    Q_OBJECT
  public:
    FrameDelegate(DeskDocument& document, FrameModel& model, Crops& crops, bool sheet,
                  QObject* parent = nullptr);
    void setTicks(bool on) { m_ticks = on; }
    void paint(QPainter* p, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option,
                                 const QModelIndex& index) const override;
    bool editorEvent(QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem& option,
                     const QModelIndex& index) override;

  private:
    [[nodiscard]] QRect pictureBox(const QRect& cell) const;
    DeskDocument& m_document;
    FrameModel& m_model;
    Crops& m_crops;
    bool m_sheet, m_ticks = false;
};

/// The narrow column of all frames.
class FrameColumn : public QWidget {
    Q_OBJECT
  public:
    FrameColumn(DeskDocument& document, FrameModel& model, Crops& crops, QWidget* parent = nullptr);
    void setTicks(bool on);
    void step(int by);

  private:
    DeskDocument& m_document;
    FrameModel& m_model;
    FrameDelegate* m_delegate;
    QListView* m_list;
    QLabel* m_title;
};

}  // namespace gq::desk
