#pragma once
#include <QImage>
#include <QPainterPath>
#include <QString>
#include <QTransform>

#include "core/pixels/frame_geometry.h"
#include "core/pixels/region.h"
#include "core/pixels/result.h"

namespace gq::desk {

/// A copy of an 8-bit colour image for Qt.
[[nodiscard]] QImage toQImage(const Image8& image);
/// Stored -> shown coordinates.
[[nodiscard]] QTransform shownTransform(const FrameGeometry& geometry);
/// An image turned as its frame is shown.
[[nodiscard]] QImage upright(const QImage& stored, Orientation orientation);
/// A region's outline in stored coordinates, true to `tolerance` px.
[[nodiscard]] QPainterPath outline(const Region& region, double tolerance = 0);
[[nodiscard]] QString text(const std::string& s);
/// As gq::counted.
[[nodiscard]] QString counted(qsizetype n, const QString& noun);

}  // namespace gq::desk
