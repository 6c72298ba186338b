#include "desk/bench/rounds.h"

#include <algorithm>
#include <cmath>

#include "desk/look/convert.h"
#include "desk/look/theme.h"

namespace gq::desk {

PointF nextRound(const Size& shown, const Size& cell, PointF at, int by) {
    const int columns = std::max(1, (shown.width + cell.width - 1) / cell.width);
    const int rows = std::max(1, (shown.height + cell.height - 1) / cell.height);
    const double w = double(shown.width) / columns, h = double(shown.height) / rows;
    const int column = std::clamp(int(double(at.x) / w), 0, columns - 1);
    const int row = std::clamp(int(double(at.y) / h), 0, rows - 1);
    // Every second column runs upwards.
    int place = column * rows + (column % 2 ? rows - 1 - row : row);
    place = (place + by + columns * rows) % (columns * rows);
    const int toColumn = place / rows, within = place % rows;
    const int toRow = toColumn % 2 ? rows - 1 - within : within;
    return {float((toColumn + 0.5) * w), float((toRow + 0.5) * h)};
}

void paintSeenMap(QPainter& p, const QRect& widget, const series::Frame& frame,
                  const QRectF& inSight) {
    if (frame.seen.empty()) return;
    const Size size = frame.geometry.shownSize();
    const double k = 132.0 / std::max(size.width, size.height);
    const QRectF map(widget.right() - size.width * k - 12, widget.bottom() - size.height * k - 12,
                     size.width * k, size.height * k);
    QImage seen(frame.seen.cols, frame.seen.rows, QImage::Format_ARGB32);
    for (int y = 0; y < seen.height(); ++y)
        for (int x = 0; x < seen.width(); ++x) {
            const int zoom = frame.seen.at<uchar>(y, x);  // 50 = 100 %
            const QColor c = theme().accent;
            seen.setPixelColor(
                x, y,
                zoom == 0 ? QColor(20, 22, 22, 190)
                          : QColor(c.red(), c.green(), c.blue(), std::min(235, 90 + zoom)));
        }
    p.save();
    p.setRenderHint(QPainter::SmoothPixmapTransform, false);
    p.drawImage(map, upright(seen, frame.geometry.orientation));
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(QColor(0, 0, 0, 160), 1));
    p.drawRect(map);
    p.setPen(QPen(QColor(250, 250, 250), 1.4));
    p.drawRect(QRectF(map.x() + inSight.x() * k, map.y() + inSight.y() * k, inSight.width() * k,
                      inSight.height() * k) &
               map);
    p.restore();
}

}  // namespace gq::desk
