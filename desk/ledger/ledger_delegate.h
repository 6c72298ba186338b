#pragma once
#include <QStyledItemDelegate>

#include "desk/document/crops.h"
#include "desk/ledger/ledger_model.h"

namespace gq::desk {

/// Paints a ledger row: crop before | after, kind, measures, confidence, state.
class LedgerDelegate : public QStyledItemDelegate {
    Q_OBJECT
  public:
    LedgerDelegate(LedgerModel& model, Crops& crops, QObject* parent = nullptr);
    void paint(QPainter* p, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override;
    [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option,
                                 const QModelIndex& index) const override;

  private:
    LedgerModel& m_model;
    Crops& m_crops;
};

}  // namespace gq::desk
