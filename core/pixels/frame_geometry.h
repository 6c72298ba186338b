#pragma once
#include "core/pixels/image.h"

namespace gq {

/// The eight EXIF orientations: how the stored picture must be turned to be shown upright.
enum class Orientation : int {
    Upright = 1,
    MirrorX = 2,
    Turn180 = 3,
    MirrorY = 4,
    Transpose = 5,
    Turn90 = 6,
    Transverse = 7,
    Turn270 = 8
};

/// An orientation from its EXIF number; anything else is Upright.
[[nodiscard]] Orientation orientationFromExif(int value);

/// Maps between a frame's stored pixels, the picture as shown, and the sensor it came from.
///
/// A camera writes its pixels as the sensor lies and notes the turn in a tag, so stored = sensor
/// unless the frame was cropped, scaled, or turned for good by another program (`storedTurn`).
/// Points are continuous, pixel centres at +0.5.
struct FrameGeometry {
    Size stored;                                     ///< size of the stored picture, px
    Orientation orientation = Orientation::Upright;  ///< stored -> shown
    Orientation storedTurn = Orientation::Upright;   ///< sensor -> stored, if turned for good
    Size sensor;                                     ///< sensor size, px; empty = as stored
    PointF cropOffset{0, 0};                         ///< crop's corner on the turned sensor, px
    float scale = 1.0f;                              ///< stored px per sensor px

    [[nodiscard]] Size shownSize() const;
    [[nodiscard]] PointF toShown(PointF storedPoint) const;
    [[nodiscard]] PointF fromShown(PointF shownPoint) const;
    [[nodiscard]] PointF toSensor(PointF storedPoint) const;
    [[nodiscard]] PointF fromSensor(PointF sensorPoint) const;
    /// The smallest box of whole pixels around another's corners.
    [[nodiscard]] Rect boxToSensor(const Rect& storedBox) const;
    [[nodiscard]] Rect boxFromSensor(const Rect& sensorBox) const;
    [[nodiscard]] Size sensorSize() const { return sensor.empty() ? unturnedSensor() : sensor; }

  private:
    [[nodiscard]] Size unturnedSensor() const;
};

/// A point of a picture of `size`, moved as `turn` turns the picture.
[[nodiscard]] PointF turned(PointF p, const Size& size, Orientation turn);
/// The orientation that undoes `turn`.
[[nodiscard]] Orientation inverse(Orientation turn);
/// True if `turn` swaps width and height.
[[nodiscard]] bool swapsSides(Orientation turn);
/// The picture turned; a copy.
[[nodiscard]] cv::Mat turned(const cv::Mat& image, Orientation turn);

}  // namespace gq
