#pragma once
#include <QAbstractTableModel>
#include <QLabel>
#include <QStyledItemDelegate>
#include <QTableView>

#include "desk/document/crops.h"
#include "desk/document/work.h"

namespace gq::desk {

/// Mends of the reference, and of a chart, (rows) x frames (columns), each with its verdict.
class CarryModel : public QAbstractTableModel {
    Q_OBJECT
  public:
    explicit CarryModel(DeskDocument& document, QObject* parent = nullptr);
    [[nodiscard]] int rowCount(const QModelIndex& = {}) const override {
        return int(m_mends.size());
    }
    [[nodiscard]] int columnCount(const QModelIndex& = {}) const override {
        return int(m_frames.size());
    }
    [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
    [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation,
                                      int role) const override;
    [[nodiscard]] const series::Frame& frame(int column) const { return *m_frames[size_t(column)]; }
    [[nodiscard]] series::Id mend(int row) const { return m_mends[size_t(row)]; }
    [[nodiscard]] const series::CarriedEntry* cell(const QModelIndex& index) const;
    void setOnlyLooks(bool on);

  private:
    void rebuild();
    DeskDocument& m_document;
    std::vector<series::Id> m_mends;
    std::vector<series::FramePtr> m_frames;
    bool m_onlyLooks = false;
};

/// The board. Enter opens a cell's frame there, A accepts, X leaves alone; with Shift the whole
/// row, with Ctrl the whole column.
class CarryBoard : public QTableView {
    Q_OBJECT
  public:
    CarryBoard(DeskDocument& document, Work& work, Crops& crops, QWidget* parent = nullptr);
    [[nodiscard]] CarryModel& board() { return m_model; }

  signals:
    void openCell(const std::string& frame, gq::series::Id mend);

  protected:
    void keyPressEvent(QKeyEvent* e) override;
    void paintEvent(QPaintEvent* e) override;

  private:
    void open(const QModelIndex& index);
    /// The cell, its row (Shift) or its column (Ctrl).
    [[nodiscard]] std::vector<Work::Cell> cellsAt(const QModelIndex& index,
                                                  Qt::KeyboardModifiers keys) const;
    Work& m_work;
    CarryModel m_model;
};

}  // namespace gq::desk
