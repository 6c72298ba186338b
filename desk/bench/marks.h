#pragma once
#include <QPainter>

#include "core/series/series.h"

namespace gq::desk {

/// How a mark is drawn.
struct MarkLook {
    enum class State { Open, Mended, Look, Below } state = State::Open;
    bool selected = false;
};

/// Draws true contours, ticks and glyphs, at the same thickness at any zoom.
class MarkPainter {
  public:
    /// `transform` maps stored coordinates to the widget.
    MarkPainter(QPainter& painter, const QTransform& transform)
        : m_painter(painter), m_transform(transform) {}

    void mark(const QPainterPath& contour, find::Kind kind, const MarkLook& look);
    /// Where thousands are in sight: a dot instead of contour, ticks and glyph.
    void dot(const QPointF& at, const MarkLook& look);
    /// The source of a mend: its contour dashed, and the tether with its ring.
    void source(const QPainterPath& contour, Point offset);
    static void glyph(QPainter& painter, const QRectF& box, find::Kind kind);

  private:
    void doubleLine(const QPainterPath& path, const QPen& light);
    QPainter& m_painter;
    QTransform m_transform;
};

}  // namespace gq::desk
