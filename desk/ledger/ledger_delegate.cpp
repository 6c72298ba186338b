#include "desk/ledger/ledger_delegate.h"

#include <QPainter>

#include "desk/bench/marks.h"
#include "desk/look/theme.h"

namespace gq::desk {

namespace {

constexpr int kCrop = 50;  ///< px of a crop as drawn

}  // namespace

LedgerDelegate::LedgerDelegate(LedgerModel& model, Crops& crops, QObject* parent)
    : QStyledItemDelegate(parent), m_model(model), m_crops(crops) {}

QSize LedgerDelegate::sizeHint(const QStyleOptionViewItem&, const QModelIndex& index) const {
    return {260, m_model.row(index.row()).fold ? 34 : 62};
}

QString LedgerDelegate::scaleOf(const LedgerModel::Row& row) const {
    const Region& region = row.finding ? row.finding->finding.region : row.mend->mend.region;
    const int side = cropBox(region, m_model.picture()).width;
    return QStringLiteral("%1 %").arg(std::lround(100.0 * kCrop / std::max(1, side)));
}

void LedgerDelegate::paint(QPainter* p, const QStyleOptionViewItem& option,
                           const QModelIndex& index) const {
    const auto& row = m_model.row(index.row());
    const Theme& t = theme();
    const QRect r = option.rect;
    p->save();
    p->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    if (row.fold) {
        p->setPen(t.dim);
        p->drawText(r.adjusted(14, 0, -8, 0), Qt::AlignVCenter,
                    (m_model.unfolded() ? QStringLiteral("▾  ") : QStringLiteral("▸  ")) +
                        tr("%1 below the line").arg(m_model.below()));
        p->restore();
        return;
    }
    if (option.state & QStyle::State_Selected) {
        p->fillRect(r, t.selected);
        p->fillRect(QRect(r.left(), r.top(), 3, r.height()), t.accent);
    }
    const auto* crops = m_crops.entry(row.id);
    for (int i = 0; i < 2; ++i) {
        const QRect box(r.left() + 12 + i * (kCrop + 6), r.top() + 6, kCrop, kCrop);
        p->fillRect(box, t.raised);
        if (crops && !(i ? crops->after : crops->before).isNull())
            p->drawImage(box, i ? crops->after : crops->before);
        else if (crops && i) {
            p->setPen(t.faint);
            p->drawText(box, Qt::AlignCenter, QStringLiteral("–"));
        }
    }
    const int x = r.left() + 132, right = r.right() - 14;
    QFont strong = option.font;
    strong.setWeight(QFont::Medium);
    p->setFont(strong);
    p->setPen(row.below ? t.dim : t.text);
    if (row.finding) {
        p->setPen(QPen(t.dim, 1.1));
        MarkPainter::glyph(*p, QRectF(x, r.top() + 17, 9, 9), row.finding->finding.kind);
        p->setPen(row.below ? t.dim : t.text);
    }
    p->drawText(QRect(x + (row.finding ? 16 : 0), r.top() + 11, right - x - 60, 20),
                Qt::AlignVCenter, titleOf(row));
    QFont small = option.font;
    small.setPixelSize(11);
    p->setFont(small);
    p->setPen(t.dim);
    const QRect second(x, r.top() + 32, right - x, 18);
    p->drawText(second, Qt::AlignVCenter, detailOf(row));
    const QString scale = scaleOf(row);
    const QFontMetrics wide(small);
    if (wide.horizontalAdvance(detailOf(row)) + wide.horizontalAdvance(scale) + 8 <
        second.width()) {
        p->setPen(t.faint);
        p->drawText(second, Qt::AlignVCenter | Qt::AlignRight, scale);
    }
    const QRect end(right - 64, r.top() + 11, 64, 20);
    if (row.mend) {
        p->setPen(row.mend->muted ? t.look : t.accentText);
        p->drawText(end, Qt::AlignVCenter | Qt::AlignRight,
                    row.mend->muted ? tr("⚑ look") : tr("mended"));
    } else if (row.finding) {
        p->setFont(figureFont(12));
        p->setPen(row.below ? t.faint : t.accentText);
        p->drawText(end, Qt::AlignVCenter | Qt::AlignRight,
                    QString::number(double(row.finding->finding.confidence), 'f', 2));
    }
    p->fillRect(QRect(r.left() + 12, r.bottom(), r.width() - 24, 1), t.line);
    p->restore();
}

}  // namespace gq::desk
