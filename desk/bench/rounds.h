#pragma once
#include <QPainter>

#include "core/series/series.h"

namespace gq::desk {

/// The zigzag walk over a frame: cells as large as what the bench shows at its zoom, column by
/// column, down one and up the next, so that nothing is missed. Returns the middle of the cell
/// after (`by` 1) or before (-1) the one that `at` lies in, for a frame of `shown` size and cells
/// of `cell` (all in shown px). Starts over at either end.
[[nodiscard]] PointF nextRound(const Size& shown, const Size& cell, PointF at, int by);

/// A small map of what was seen in rounds, brighter at a higher zoom, with what is in sight now.
/// `inSight` and the frame are in shown px; drawn in the lower right corner of `widget`.
void paintSeenMap(QPainter& p, const QRect& widget, const series::Frame& frame,
                  const QRectF& inSight);

}  // namespace gq::desk
