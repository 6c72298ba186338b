// What the bench draws when before and after are compared.
#include <QPainter>

#include "desk/bench/bench_view.h"
#include "desk/look/theme.h"

namespace gq::desk {
namespace {

/// A word in a corner of the picture.
void paintWord(QPainter& p, const QRectF& where, Qt::Alignment side, const QString& word) {
    const double width = p.fontMetrics().horizontalAdvance(word) + 16.0;
    const QRectF box(side & Qt::AlignRight ? where.right() - width - 8 : where.left() + 8, 8, width,
                     22);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(0, 0, 0, 150));
    p.drawRoundedRect(box, 4, 4);
    p.setPen(Qt::white);
    p.drawText(box, Qt::AlignCenter, word);
}

}  // namespace

/// The picture before on the left, as the one after lies on the sheet.
void BenchView::paintBeside(QPainter& p) {
    const QRectF right = sheet();
    p.save();
    p.setClipRect(QRectF(0, 0, right.width(), height()), Qt::IntersectClip);
    p.translate(-right.left(), 0);
    paintPicture(p, m_pictures.before(), m_before);
    p.setRenderHint(QPainter::Antialiasing);
    if (mends(m_tool) || guideOf(m_tool)) paintTool(p);
    p.restore();
}

/// What before and after differ in, eightfold, on black.
void BenchView::paintChanged(QPainter& p) {
    constexpr int kDodge = 224;  // of 256: leaves an eighth to divide by
    p.save();
    p.setCompositionMode(QPainter::CompositionMode_Difference);
    paintPicture(p, m_pictures.before(), m_before);
    p.setCompositionMode(QPainter::CompositionMode_ColorDodge);
    const Size s = m_pictures.frame()->geometry.stored;
    p.fillRect(onScreen({0, 0, s.width, s.height}), QColor(kDodge, kDodge, kDodge));
    p.restore();
}

void BenchView::paintWipe(QPainter& p) {
    p.save();
    p.setClipRect(QRectF(0, 0, wipeX(), height()), Qt::IntersectClip);
    paintPicture(p, m_pictures.before(), m_before);
    p.restore();
    p.fillRect(QRectF(wipeX() - 2, 0, 4, height()), QColor(0, 0, 0, 120));
    p.fillRect(QRectF(wipeX() - 0.5, 0, 1, height()), Qt::white);
    p.setPen(Qt::NoPen);
    p.setBrush(theme().accent);
    p.drawRoundedRect(QRectF(wipeX() - 5, height() / 2.0 - 18, 10, 36), 3, 3);
}

/// Tells which picture is which.
void BenchView::paintNames(QPainter& p) {
    const QRectF whole = rect();
    if (m_hold) {
        paintWord(p, whole, Qt::AlignLeft, tr("before"));
    } else if (m_compare == Compare::Changed) {
        paintWord(p, whole, Qt::AlignLeft, tr("what changed, eightfold"));
    } else if (m_compare == Compare::Wipe) {
        paintWord(p, whole.adjusted(0, 0, wipeX() - whole.right(), 0), Qt::AlignRight,
                  tr("before"));
        paintWord(p, whole.adjusted(wipeX(), 0, 0, 0), Qt::AlignLeft, tr("after"));
    } else if (m_compare == Compare::Beside) {
        p.fillRect(QRectF(sheet().left() - 1, 0, 2, height()), theme().separator);
        paintWord(p, whole, Qt::AlignLeft, tr("before"));
        paintWord(p, sheet(), Qt::AlignLeft, tr("after"));
    }
}

}  // namespace gq::desk
