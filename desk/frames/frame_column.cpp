#include "desk/frames/frame_column.h"

#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

FrameDelegate::FrameDelegate(DeskDocument& document, FrameModel& model, Crops& crops, bool sheet,
                             QObject* parent)
    : QStyledItemDelegate(parent),
      m_document(document),
      m_model(model),
      m_crops(crops),
      m_sheet(sheet) {}

QSize FrameDelegate::sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const {
    return m_sheet ? QSize(208, 198) : QSize(116, 106);
}

QRect FrameDelegate::pictureBox(const QRect& cell) const {
    return m_sheet ? cell.adjusted(8, 8, -8, -52) : cell.adjusted(8, 4, -8, -24);
}

void FrameDelegate::paint(QPainter* p, const QStyleOptionViewItem& option,
                          const QModelIndex& index) const {
    const auto& f = m_model.frame(index.row());
    const Theme& t = theme();
    const bool current = m_model.currentRow() == index.row();
    const QRect box = pictureBox(option.rect);
    p->save();
    p->setRenderHint(QPainter::Antialiasing);
    p->setRenderHint(QPainter::SmoothPixmapTransform);
    QRect picture = box;
    const QImage image = m_crops.thumbnail(f);
    if (!image.isNull()) {
        const QSize s = image.size().scaled(box.size(), Qt::KeepAspectRatio);
        picture = QRect(box.left() + (box.width() - s.width()) / 2, box.bottom() + 1 - s.height(),
                        s.width(), s.height());
        p->drawImage(picture, image);
    } else {
        p->fillRect(box, t.raised);
    }
    const QString amiss = m_model.amiss(index.row());
    if (!amiss.isEmpty()) {
        const QRect band(picture.left(), picture.bottom() - 19, picture.width(), 20);
        p->fillRect(band, QColor(0, 0, 0, 170));
        p->setPen(Qt::white);
        p->drawText(band, Qt::AlignCenter, QStringLiteral("⚑ %1").arg(amiss));
    }
    if (current) {
        p->setPen(QPen(t.accent, 2));
        p->setBrush(Qt::NoBrush);
        p->drawRoundedRect(QRectF(picture).adjusted(-2, -2, 2, 2), 2, 2);
    }
    const auto counts = m_model.counts(index.row());
    if (f.id == m_document.now()->reference) {
        QPainterPath pennant(QPointF(picture.left() + 6, picture.top() + 4));
        for (const QPointF d : {QPointF(12, 0), QPointF(12, 14), QPointF(6, 9), QPointF(0, 14)})
            pennant.lineTo(QPointF(picture.left() + 6, picture.top() + 4) + d);
        p->setPen(QPen(QColor(0, 0, 0, 150), 1));
        p->setBrush(t.accent);
        pennant.closeSubpath();
        p->drawPath(pennant);
    }
    if (m_ticks && f.id != m_document.now()->reference) {
        const QRectF tick(picture.right() - 19, picture.top() + 4, 15, 15);
        p->setPen(QPen(QColor(0, 0, 0, 160), 1));
        p->setBrush(m_document.ticked(f.id) ? t.accent : QColor(0, 0, 0, 110));
        p->drawRoundedRect(tick, 3, 3);
        if (m_document.ticked(f.id)) {
            p->setPen(QPen(Qt::white, 1.6));
            p->drawPolyline(
                QPolygonF({tick.topLeft() + QPointF(3.5, 8), tick.topLeft() + QPointF(6.5, 11),
                           tick.topLeft() + QPointF(11.5, 4.5)}));
        }
    }
    const QRectF bar(box.left(), box.bottom() + 4, box.width(), 3);
    p->fillRect(bar, t.line);
    const int all = counts.open + counts.mended + counts.looks;
    if (all > 0) {
        const double mended = bar.width() * counts.mended / all,
                     looks = bar.width() * counts.looks / all;
        p->fillRect(QRectF(bar.left(), bar.top(), mended, 3), t.accent);
        p->fillRect(QRectF(bar.left() + mended, bar.top(), looks, 3), t.look);
    }
    QFont small = option.font;
    small.setPixelSize(11);
    p->setFont(small);
    p->setPen(current ? t.text : t.dim);
    const QRect name(box.left(), box.bottom() + 8, box.width(), 16);
    p->drawText(name, Qt::AlignLeft | Qt::AlignVCenter, text(f.name()));
    if (counts.looks) {
        p->setPen(t.look);
        p->drawText(name, Qt::AlignRight | Qt::AlignVCenter,
                    QStringLiteral("%1 ⚑").arg(counts.looks));
    } else if (counts.open && !m_sheet) {
        p->drawText(name, Qt::AlignRight | Qt::AlignVCenter, QString::number(counts.open));
    }
    if (m_sheet) {
        p->setPen(t.dim);
        const QString taken = text(f.taken).mid(11, 5);
        p->drawText(
            name.translated(0, 17), Qt::AlignLeft,
            QStringLiteral("%1%2%3").arg(
                taken,
                f.aperture > 0 ? QStringLiteral("  f/%1").arg(f.aperture, 0, 'g', 3) : QString(),
                swapsSides(f.geometry.orientation) ? tr("  turned") : QString()));
    }
    p->restore();
}

bool FrameDelegate::editorEvent(QEvent* event, QAbstractItemModel* model,
                                const QStyleOptionViewItem& option, const QModelIndex& index) {
    if (m_ticks && event->type() == QEvent::MouseButtonRelease) {
        const QRect box = pictureBox(option.rect);
        const auto at = static_cast<QMouseEvent*>(event)->position();
        if (at.x() > box.right() - 36 && at.y() < box.top() + 40) {
            const auto id = m_model.frame(index.row()).id;
            m_document.setTicked(id, !m_document.ticked(id));
            return true;
        }
    }
    return QStyledItemDelegate::editorEvent(event, model, option, index);
}

FrameColumn::FrameColumn(DeskDocument& document, FrameModel& model, Crops& crops, QWidget* parent)
    : QWidget(parent),
      m_document(document),
      m_model(model),
      m_delegate(new FrameDelegate(document, model, crops, false, this)) {
    setObjectName("column");
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(0, 12, 0, 0);
    m_title = new QLabel;
    m_title->setObjectName("title");
    m_title->setFont(titleFont());
    m_title->setContentsMargins(10, 0, 4, 0);
    m_list = new QListView;
    m_list->setObjectName("frames");
    m_list->setModel(&model);
    m_list->setItemDelegate(m_delegate);
    m_list->setUniformItemSizes(true);
    m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    m_list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_list->setSelectionMode(QAbstractItemView::NoSelection);
    m_list->setFocusPolicy(Qt::NoFocus);
    all->addWidget(m_title);
    all->addWidget(m_list, 1);
    connect(m_list, &QListView::clicked, this,
            [this](const QModelIndex& i) { m_document.setCurrent(m_model.frame(i.row()).id); });
    connect(&document, &DeskDocument::opened, this,
            [this] { m_title->setText(text(m_document.now()->name)); });
    connect(&document, &DeskDocument::currentChanged, this, [this] {
        if (m_model.currentRow() >= 0) m_list->scrollTo(m_model.index(m_model.currentRow()));
    });
}

void FrameColumn::setTicks(bool on) {
    m_delegate->setTicks(on);
    m_list->viewport()->update();
}

void FrameColumn::step(int by) {
    const int i = m_model.currentRow() + by;
    if (i >= 0 && i < m_model.rowCount()) m_document.setCurrent(m_model.frame(i).id);
}

}  // namespace gq::desk
