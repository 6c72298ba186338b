#include "desk/look/convert.h"

#include "core/pixels/words.h"

namespace gq::desk {

QImage toQImage(const Image8& image) {
    return QImage(image.data, image.cols, image.rows, int(image.step), QImage::Format_RGB888)
        .convertToFormat(QImage::Format_RGB32);
}

QTransform shownTransform(const FrameGeometry& g) {
    const PointF o = g.toShown({0, 0}), x = g.toShown({1, 0}) - o, y = g.toShown({0, 1}) - o;
    return QTransform(x.x, x.y, y.x, y.y, o.x, o.y);
}

QImage upright(const QImage& stored, Orientation orientation) {
    FrameGeometry g;
    g.stored = {stored.width(), stored.height()};
    g.orientation = orientation;
    QTransform t = shownTransform(g);
    t = QTransform(t.m11(), t.m12(), t.m21(), t.m22(), 0, 0);
    return stored.transformed(t);
}

QPainterPath outline(const Region& region, double tolerance) {
    QPainterPath path;
    for (const auto& line : contours(region, tolerance)) {
        if (line.empty()) continue;
        path.moveTo(double(line[0].x), double(line[0].y));
        for (size_t i = 1; i < line.size(); ++i) path.lineTo(double(line[i].x), double(line[i].y));
        path.closeSubpath();
    }
    return path;
}

QString text(const std::string& s) {
    return QString::fromStdString(s);
}

QString counted(qsizetype n, const QString& noun) {
    return text(gq::counted(long(n), noun.toStdString()));
}

}  // namespace gq::desk
