#include "desk/bench/marks.h"

#include <QPainterPath>

#include "desk/look/theme.h"

namespace gq::desk {
namespace {

const QColor kDark(0, 0, 0, 140), kLight(244, 248, 246), kLook("#F0BE5E");
constexpr int kMendedAlpha = 190;

/// Four corner marks round a box: plain, turned inwards, doubled or dotted by state.
QPainterPath ticks(const QRectF& b, MarkLook::State state) {
    QPainterPath p;
    const double l = 6;
    for (const int sx : {-1, 1})
        for (const int sy : {-1, 1}) {
            const QPointF c(sx < 0 ? b.left() : b.right(), sy < 0 ? b.top() : b.bottom());
            if (state == MarkLook::State::Mended) {
                p.moveTo(c);
                p.lineTo(c + QPointF(-sx * l * 0.9, -sy * l * 0.9));
                continue;
            }
            for (const double out : state == MarkLook::State::Look ? std::vector<double>{0, 3.5}
                                                                   : std::vector<double>{0}) {
                const QPointF o = c + QPointF(sx * out, sy * out);
                p.moveTo(o + QPointF(-sx * l, 0));
                p.lineTo(o);
                p.lineTo(o + QPointF(0, -sy * l));
            }
        }
    return p;
}

}  // namespace

void MarkPainter::doubleLine(const QPainterPath& path, const QPen& light) {
    QPen dark = light;
    dark.setColor(kDark);
    dark.setWidthF(light.widthF() + 2);
    m_painter.setBrush(Qt::NoBrush);
    m_painter.setPen(dark);
    m_painter.drawPath(path);
    m_painter.setPen(light);
    m_painter.drawPath(path);
}

void MarkPainter::mark(const QPainterPath& contour, find::Kind kind, const MarkLook& look) {
    const QPainterPath path = m_transform.map(contour);
    const QRectF box = path.boundingRect();
    QColor colour = look.selected                         ? QColor("#8FE6D8")
                    : look.state == MarkLook::State::Look ? kLook
                                                          : kLight;
    if (look.state == MarkLook::State::Mended && !look.selected) colour.setAlpha(kMendedAlpha);
    QPen pen(colour, look.selected ? 2.2 : 1.0);
    if (look.state == MarkLook::State::Below) pen.setStyle(Qt::DotLine);
    if (box.width() > 5 || box.height() > 5) doubleLine(path, pen);
    const QRectF around =
        QRectF(box.center() - QPointF(1, 1), QSizeF(2, 2)).united(box).adjusted(-7, -7, 7, 7);
    if (box.width() < 90 && box.height() < 90) {
        QPen tick(colour, look.selected ? 2.2 : 1.4);
        tick.setCapStyle(Qt::FlatCap);
        if (look.state == MarkLook::State::Below) tick.setStyle(Qt::DotLine);
        doubleLine(ticks(around, look.state), tick);
    }
    if (look.state == MarkLook::State::Below && !look.selected) return;
    const QRectF g(around.right() + 4, around.top() - 5, 9, 9);
    m_painter.setPen(QPen(kDark, 3));
    glyph(m_painter, g, kind);
    m_painter.setPen(QPen(colour, 1.1));
    glyph(m_painter, g, kind);
}

void MarkPainter::dot(const QPointF& at, const MarkLook& look) {
    const QPointF c = m_transform.map(at);
    const bool open = look.state == MarkLook::State::Open;
    QColor colour = look.state == MarkLook::State::Look ? kLook : kLight;
    if (look.state == MarkLook::State::Mended) colour.setAlpha(kMendedAlpha);
    if (look.state == MarkLook::State::Below) colour.setAlpha(90);
    const double half = open || look.state == MarkLook::State::Look ? 1.5 : 1;
    m_painter.fillRect(QRectF(c.x() - half - 1, c.y() - half - 1, 2 * half + 2, 2 * half + 2),
                       kDark);
    m_painter.fillRect(QRectF(c.x() - half, c.y() - half, 2 * half, 2 * half), colour);
}

void MarkPainter::source(const QPainterPath& contour, Point offset) {
    const QPainterPath here = m_transform.map(contour),
                       there = m_transform.map(contour.translated(offset.x, offset.y));
    QPen pen(QColor("#8FE6D8"), 1.4, Qt::CustomDashLine);
    pen.setDashPattern({4, 3});
    doubleLine(there, pen);
    const QPointF a = here.boundingRect().center(), b = there.boundingRect().center(),
                  middle = (a + b) / 2;
    QPainterPath tether;
    const double length = std::hypot(b.x() - a.x(), b.y() - a.y());
    if (length > 16) {
        const QPointF gap = (b - a) / length * 5;
        tether.moveTo(a);
        tether.lineTo(middle - gap);
        tether.moveTo(middle + gap);
        tether.lineTo(b);
    }
    tether.addEllipse(middle, 4.5, 4.5);
    doubleLine(tether, QPen(QColor("#8FE6D8"), 1.2));
}

void MarkPainter::glyph(QPainter& p, const QRectF& b, find::Kind kind) {
    p.setBrush(Qt::NoBrush);
    switch (kind) {
        case find::Kind::Shadow:
            p.drawEllipse(b.adjusted(0.5, 0.5, -0.5, -0.5));
            for (const double x : {0.35, 0.5, 0.65})
                p.drawLine(QPointF(b.left() + x * b.width(), b.top() + 2),
                           QPointF(b.left() + x * b.width(), b.bottom() - 2));
            break;
        case find::Kind::Speck:
            p.setBrush(p.pen().color());
            p.drawRect(b.adjusted(2.5, 2.5, -2.5, -2.5));
            break;
        case find::Kind::Fibre: {
            QPainterPath wave(QPointF(b.left(), b.center().y() + 1));
            wave.cubicTo(QPointF(b.left() + b.width() * 0.35, b.top() - 2),
                         QPointF(b.left() + b.width() * 0.65, b.bottom() + 2),
                         QPointF(b.right(), b.center().y() - 1));
            p.drawPath(wave);
            break;
        }
        case find::Kind::Scratch:
            p.drawLine(QPointF(b.center().x(), b.top()), QPointF(b.center().x(), b.bottom()));
            break;
        case find::Kind::Crack: {
            QPolygonF jagged;
            for (int i = 0; i < 5; ++i)
                jagged << QPointF(b.center().x() + (i % 2 ? 2.5 : -2.5),
                                  b.top() + b.height() * i / 4);
            p.drawPolyline(jagged);
            break;
        }
        case find::Kind::Stain:
            p.drawEllipse(b.adjusted(0.5, 0.5, -0.5, -0.5));
            p.setBrush(p.pen().color());
            p.drawChord(b.adjusted(0.5, 0.5, -0.5, -0.5), 90 * 16, 180 * 16);
            break;
        case find::Kind::Loss:
            p.drawRect(b.adjusted(0.5, 0.5, -0.5, -0.5));
            break;
    }
}

}  // namespace gq::desk
