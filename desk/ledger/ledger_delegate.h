#pragma once
#include <QStyledItemDelegate>

#include "desk/document/crops.h"
#include "desk/ledger/ledger_model.h"

namespace gq::desk {

/// Paints a ledger row: crop before | after with their scale, kind, measures, confidence, state.
class LedgerDelegate : public QStyledItemDelegate {
    Q_OBJECT
  public:
    LedgerDelegate(LedgerModel& model, Crops& crops, QObject* parent = nullptr);
    void paint(QPainter* p, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option,
                                 const QModelIndex& index) const override;

  private:
    /// How large a row's crops are drawn: "140 %".
    [[nodiscard]] QString scaleOf(const LedgerModel::Row& row) const;

    LedgerModel& m_model;
    Crops& m_crops;
};

}  // namespace gq::desk
