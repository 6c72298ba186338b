#include "desk/stages/delivery_queue.h"

#include <QFileInfo>
#include <QPainter>
#include <QStyledItemDelegate>

#include "desk/frames/frame_model.h"
#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {
namespace {

/// Paints a row: thumbnail upright, name and file, facts, state.
class QueueDelegate : public QStyledItemDelegate {
  public:
    QueueDelegate(DeskDocument& document, const DeliveryQueue& queue, Crops& crops, QObject* parent)
        : QStyledItemDelegate(parent), m_document(document), m_queue(queue), m_crops(crops) {}

    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override {
        return {420, kHeight};
    }

    void paint(QPainter* p, const QStyleOptionViewItem& option,
               const QModelIndex& index) const override {
        const auto& row = m_queue.row(index.row());
        const auto frame = m_document.now()->frame(row.frame);
        if (!frame) return;
        const Theme& t = theme();
        const QRect r = option.rect;
        p->save();
        p->setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
        p->fillRect(QRect(r.left(), r.bottom(), r.width(), 1), t.line);
        const QRect box(r.left() + 8, r.top() + 7, kPicture, r.height() - 14);
        if (const QImage image = m_crops.thumbnail(*frame); image.isNull()) {
            p->fillRect(box, t.raised);
        } else {
            QRect picture({}, image.size().scaled(box.size(), Qt::KeepAspectRatio));
            picture.moveCenter(box.center());
            p->drawImage(picture, image);
        }
        const QRect words(box.right() + 17, r.top(), r.right() - 16 - box.right() - 17, r.height());
        const QRect first(words.left(), words.top() + 13, words.width(), 20),
            second(words.left(), words.top() + 35, words.width(), 18);
        QFont strong = option.font, small = option.font;
        strong.setWeight(QFont::Medium);
        small.setPixelSize(12);
        const int right = QFontMetrics(option.font).horizontalAdvance(row.state) + 16;
        p->setPen(row.colour);
        p->drawText(first, Qt::AlignRight | Qt::AlignVCenter, row.state);
        int x = write(*p, strong, t.text, first, text(frame->file.filename().string()), right);
        write(*p, option.font, t.dim, first.adjusted(x, 0, 0, 0),
              QStringLiteral("   →   ") + row.target, right);
        if (!row.fault.isEmpty()) {
            write(*p, small, t.look, second, row.fault, 0);
        } else {
            x = write(*p, small, t.dim, second, row.facts, 0);
            if (!row.looks.isEmpty())
                write(*p, small, t.look, second.adjusted(x, 0, 0, 0),
                      QStringLiteral("   ⚑ ") + row.looks, 0);
        }
        p->restore();
    }

  private:
    static constexpr int kHeight = 68, kPicture = 84;

    /// Returns its width; what finds no room beside `keepFree` px is cut short.
    static int write(QPainter& p, const QFont& font, const QColor& colour, const QRect& where,
                     const QString& words, int keepFree) {
        const QFontMetrics wide(font);
        const QString fitting =
            wide.elidedText(words, Qt::ElideRight, std::max(0, where.width() - keepFree));
        p.setFont(font);
        p.setPen(colour);
        p.drawText(where, Qt::AlignLeft | Qt::AlignVCenter, fitting);
        return wide.horizontalAdvance(fitting);
    }

    DeskDocument& m_document;
    const DeliveryQueue& m_queue;
    Crops& m_crops;
};

}  // namespace

DeliveryQueue::DeliveryQueue(DeskDocument& document, Work& work, const DeliverPanel& panel,
                             Crops& crops, QWidget* parent)
    : QListWidget(parent), m_document(document), m_work(work), m_panel(panel) {
    setObjectName("queue");
    setFocusPolicy(Qt::NoFocus);
    setSelectionMode(QAbstractItemView::NoSelection);
    setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    setUniformItemSizes(true);
    setItemDelegate(new QueueDelegate(document, *this, crops, this));
    connect(&work, &Work::queueChanged, this, &DeliveryQueue::refresh);
    connect(&panel, &DeliverPanel::planned, this, &DeliveryQueue::refresh);
    connect(&crops, &Crops::made, viewport(), qOverload<>(&QWidget::update));
    connect(this, &QListWidget::itemDoubleClicked, this, [this](QListWidgetItem* item) {
        m_document.setCurrent(row(QListWidget::row(item)).frame);
        emit openFrame();
    });
}

DeliveryQueue::Row DeliveryQueue::rowOf(const series::Frame& frame, const QString& target) const {
    const auto counts = countsOf(frame, m_document.now()->plan.line);
    Row out{frame.id,
            QFileInfo(target).fileName(),
            tr("%n mends", nullptr, counts.mended),
            {},
            {},
            {},
            theme().dim};
    if (!frame.searched) out.facts += tr(" · never searched");
    if (counts.open) out.facts += tr(" · %1 still open").arg(counts.open);
    if (counts.looks) out.looks = tr("%1 need a look").arg(counts.looks);
    return out;
}

void DeliveryQueue::showEvent(QShowEvent* e) {
    QListWidget::showEvent(e);
    refresh();
}

void DeliveryQueue::refresh() {
    if (!m_document.isOpen() || !isVisible()) return;  // it looks at every frame and its file
    using How = Work::Delivery::State;
    const auto series = m_document.now();
    m_rows.clear();
    if (m_panel.isStarted()) {
        for (const auto& d : m_work.queue()) {
            const auto frame = series->frame(d.frame);
            if (!frame) continue;
            Row row = rowOf(*frame, d.target);
            switch (d.state) {
                case How::Waiting:
                    row.state = tr("waiting");
                    break;
                case How::Writing:
                    row.state = tr("▸ writing");
                    row.colour = theme().text;
                    break;
                case How::Done:
                    row.state = tr("✓ done");
                    row.colour = theme().accentText;
                    row.facts += QStringLiteral(" · ") + d.note;
                    break;
                case How::Failed:
                    row.state = tr("⚑ not written");
                    row.colour = theme().look;
                    row.fault = d.note;
                    break;
                case How::Stopped:
                    row.state = d.note;
            }
            m_rows.push_back(std::move(row));
        }
    } else {
        for (const auto& [id, target] : m_panel.plannedFiles()) {
            Row row = rowOf(*series->frame(id), text(target.string()));
            if (m_panel.wouldStay(target))
                row.state = tr("⚑ is there already"), row.colour = theme().look;
            m_rows.push_back(std::move(row));
        }
    }
    while (count() < int(m_rows.size())) new QListWidgetItem(this);
    while (count() > int(m_rows.size())) delete takeItem(count() - 1);
    for (int i = 0; i < count(); ++i) {
        const Row& r = row(i);
        const QString about = r.fault.isEmpty() ? r.facts : r.fault;
        item(i)->setText(QStringList{r.target, r.state, about, r.looks}.join(QStringLiteral("  ")));
        item(i)->setToolTip(about);
    }
    viewport()->update();
}

}  // namespace gq::desk
