#pragma once
#include <string>
#include <vector>

#include "core/pixels/frame_geometry.h"
#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq {

/// A shape in stored coordinates: a box and the bytes in it, 255 = inside.
/// The mask is shared between copies and never written after it was made.
struct Region {
    Rect box;
    Mask mask;  ///< CV_8U, box.size()

    [[nodiscard]] bool empty() const { return mask.empty(); }
    [[nodiscard]] int area() const;
    [[nodiscard]] PointF centre() const;  ///< mean of the inside pixels' centres
    [[nodiscard]] bool contains(Point p) const;
};

/// A filled disc cut to `picture`. Units: px. A radius under 0.5 gives the one pixel under it.
[[nodiscard]] Region disc(PointF centre, float radius, const Size& picture);
/// A round-ended stroke through `path`, `width` px wide, cut to `picture`.
[[nodiscard]] Region stroke(const std::vector<PointF>& path, float width, const Size& picture);
/// The region grown by `by` px in all directions, cut to `picture`.
[[nodiscard]] Region grown(const Region& region, int by, const Size& picture);
/// What of `region` is not in `other`; empty if all of it is.
[[nodiscard]] Region without(const Region& region, const Region& other);
/// All that is in one of them or both.
[[nodiscard]] Region together(const Region& a, const Region& b);
/// The region with its holes closed: what covers a place covers all it surrounds.
[[nodiscard]] Region closed(const Region& region);
/// True if they share a pixel.
[[nodiscard]] bool meets(const Region& a, const Region& b);
/// Pixels that both have.
[[nodiscard]] int overlap(const Region& a, const Region& b);
/// The region cut out of a whole-picture mask, tight; empty if nothing is set.
[[nodiscard]] Region regionOf(const Mask& mask, Point offset = {0, 0});
/// Connected pieces (8-neighbours) of a whole-picture mask, in order of their first pixel.
[[nodiscard]] std::vector<Region> pieces(const Mask& mask);
/// Sets the region's pixels of a whole-picture mask to 255.
void paint(Mask& canvas, const Region& region);
/// Outlines in stored coordinates, each closed, along the pixels' outer edges, true to `tolerance`
/// px. Source: Douglas, Peucker, Cartographica 10(2), 1973, by OpenCV.
[[nodiscard]] std::vector<std::vector<PointF>> contours(const Region& region, double tolerance = 0);

/// The region as it falls on another frame, by way of the sensor; empty if it falls outside.
[[nodiscard]] Region carried(const Region& region, const FrameGeometry& from,
                             const FrameGeometry& to);

/// Runs of inside pixels as text, "skip,length,skip,length,..." in row order over the box.
[[nodiscard]] std::string runs(const Region& region);
/// The inverse of `runs`. Errors: Unreadable when the runs do not fit the box.
[[nodiscard]] Result<Region> regionFromRuns(const Rect& box, const std::string& text);

/// A region of a picture in one that was halved `level` times; its bytes are the share of a pixel
/// that it covers, 255 all of it.
[[nodiscard]] Region reduced(const Region& region, int level);

}  // namespace gq
