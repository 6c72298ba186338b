#include "desk/stages/stage_rail.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <numeric>

#include "core/series/lookup.h"
#include "desk/bench/marks.h"
#include "desk/look/convert.h"
#include "desk/look/key_hint.h"
#include "desk/look/theme.h"

namespace gq::desk {

namespace {
constexpr int kStep = 84, kTop = 22, kDisc = 26;
const char* const kNames[kStages] = {QT_TR_NOOP("Gather"), QT_TR_NOOP("Find"), QT_TR_NOOP("Mend"),
                                     QT_TR_NOOP("Carry"), QT_TR_NOOP("Deliver")};
}  // namespace

StageRail::StageRail(DeskDocument& document, Work& work, LiveCarry& live, QWidget* parent)
    : QWidget(parent), m_document(document), m_work(work), m_live(live) {
    setObjectName("rail");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(76);
    connect(&document, &DeskDocument::changed, this, &StageRail::count);
    connect(&live, &LiveCarry::changed, this, qOverload<>(&QWidget::update));
    connect(&work, &Work::queueChanged, this, qOverload<>(&QWidget::update));
}

QRect StageRail::stop(Stage stage) const {
    return {0, kTop + int(stage) * kStep - 8, width(), kStep - 4};
}

void StageRail::setStage(Stage stage) {
    m_stage = stage;
    update();
}

QString StageRail::state(Stage stage) const {
    const auto s = m_document.now();
    if (!s) return QStringLiteral("–");
    const auto& [kinds, mends, reached] = m_counts;
    const int open = std::accumulate(kinds.begin(), kinds.end(), 0);
    const auto done =
        std::ranges::count(m_work.queue(), Work::Delivery::State::Done, &Work::Delivery::state);
    switch (stage) {
        case Stage::Gather:
            return counted(qsizetype(s->frames.size()), tr("frame"));
        case Stage::Find:
            return tr("%1 open").arg(open);
        case Stage::Mend:
            return counted(mends, tr("mend"));
        case Stage::Carry:
            if (m_live.on()) return tr("live %1 of %2").arg(m_live.upToDate()).arg(m_live.frames());
            return reached ? tr("%1 of %2").arg(reached).arg(s->frames.size() - 1)
                           : QStringLiteral("–");
        case Stage::Deliver:
            return done ? tr("%1 done").arg(done) : QStringLiteral("–");
    }
    return {};
}

void StageRail::count() {
    m_counts = {};
    if (const auto s = m_document.now())
        for (const auto& f : s->frames) {
            const series::Lookup entries(*f);
            for (const auto& e : f->findings)
                if (entries.stateOf(e) == series::State::Open && series::proposed(e, s->plan.line))
                    ++m_counts.open[size_t(e.finding.kind)];
            m_counts.mends += int(f->mends.size());
            m_counts.reached += !f->carried.empty();
        }
    update();
}

/// Glyph and count of each kind that there is, below the path while Find is open.
void StageRail::paintKinds(QPainter& p) const {
    const Theme& t = theme();
    const auto& counts = m_counts.open;
    const double top = kTop + (kStages - 1) * kStep + kDisc + 52;
    int place = 0;
    for (size_t k = 0; k < counts.size(); ++k) {
        if (counts[k] == 0) continue;
        const double y = top + 20 * place++;
        p.setPen(QPen(t.dim, 1.2));
        MarkPainter::glyph(p, QRectF(16, y + 2, 10, 10), find::Kind(k));
        p.drawText(QRectF(32, y - 1, width() - 36, 16), Qt::AlignVCenter,
                   QString::number(counts[k]));
    }
}

void StageRail::paintEvent(QPaintEvent* e) {
    QWidget::paintEvent(e);
    QPainter p(this);
    const Theme& t = theme();
    p.fillRect(rect(), t.rail);
    p.fillRect(QRect(width() - 1, 0, 1, height()), t.separator);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(t.line, 1.5));
    p.drawLine(QPointF(width() / 2.0, kTop + kDisc / 2.0),
               QPointF(width() / 2.0, kTop + (kStages - 1) * kStep + kDisc / 2.0));
    for (int i = 0; i < kStages; ++i) {
        const bool active = Stage(i) == m_stage;
        const QString where = state(Stage(i));
        const bool reached =
            where != QStringLiteral("–") && !where.startsWith(QStringLiteral("0 "));
        const QRectF disc(width() / 2.0 - kDisc / 2.0, kTop + i * kStep, kDisc, kDisc);
        p.fillRect(QRectF(8, disc.bottom(), width() - 16, 40), t.rail);
        p.setPen(QPen(active || reached ? t.accent : t.line, 1.6));
        p.setBrush(active ? t.accent : t.rail);
        p.drawEllipse(disc);
        QFont f = font();
        f.setPixelSize(12);
        f.setWeight(QFont::DemiBold);
        p.setFont(f);
        p.setPen(active ? (t.dark ? QColor("#0E1A18") : QColor("#FFFFFF")) : t.dim);
        p.drawText(disc, Qt::AlignCenter, QString::number(i + 1));
        f.setPixelSize(13);
        f.setWeight(active ? QFont::DemiBold : QFont::Normal);
        p.setFont(f);
        p.setPen(active ? t.text : t.dim);
        p.drawText(QRectF(0, disc.bottom() + 4, width(), 18), Qt::AlignCenter, tr(kNames[i]));
        f.setPixelSize(11);
        f.setWeight(QFont::Normal);
        p.setFont(f);
        p.setPen(t.dim);
        p.drawText(QRectF(0, disc.bottom() + 21, width(), 15), Qt::AlignCenter, where);
        if (active) p.fillRect(QRectF(0, disc.top() - 6, 3, 68), t.accent);
    }
    if (m_stage == Stage::Find) paintKinds(p);
}

void StageRail::mousePressEvent(QMouseEvent* e) {
    for (int i = 0; i < kStages; ++i)
        if (stop(Stage(i)).contains(e->position().toPoint())) emit chosen(Stage(i));
}

bool StageRail::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(e);
        for (int i = 0; i < kStages; ++i)
            if (stop(Stage(i)).contains(help->pos()))
                QToolTip::showText(
                    help->globalPos(),
                    tr(kNames[i]) + keyHint(*this, QStringLiteral("stage%1").arg(i)));
        return true;
    }
    return QWidget::event(e);
}

}  // namespace gq::desk
