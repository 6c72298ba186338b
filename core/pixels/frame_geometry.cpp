#include "core/pixels/frame_geometry.h"

namespace gq {

Orientation orientationFromExif(int value) {
    return value >= 1 && value <= 8 ? Orientation(value) : Orientation::Upright;
}

bool swapsSides(Orientation turn) {
    return int(turn) >= 5;
}

Orientation inverse(Orientation turn) {
    if (turn == Orientation::Turn90) return Orientation::Turn270;
    if (turn == Orientation::Turn270) return Orientation::Turn90;
    return turn;
}

PointF turned(PointF p, const Size& size, Orientation turn) {
    const float w = float(size.width), h = float(size.height);
    switch (turn) {
        case Orientation::Upright:
            return p;
        case Orientation::MirrorX:
            return {w - p.x, p.y};
        case Orientation::Turn180:
            return {w - p.x, h - p.y};
        case Orientation::MirrorY:
            return {p.x, h - p.y};
        case Orientation::Transpose:
            return {p.y, p.x};
        case Orientation::Turn90:
            return {h - p.y, p.x};
        case Orientation::Transverse:
            return {h - p.y, w - p.x};
        case Orientation::Turn270:
            return {p.y, w - p.x};
    }
    return p;
}

cv::Mat turned(const cv::Mat& image, Orientation turn) {
    cv::Mat out;
    const bool swap = swapsSides(turn);
    const cv::Mat from = swap ? cv::Mat(image.t()) : image;
    switch (turn) {
        case Orientation::Upright:
            return image.clone();
        case Orientation::Transpose:
            return from;
        case Orientation::MirrorX:
        case Orientation::Turn90:
            cv::flip(from, out, 1);
            break;
        case Orientation::MirrorY:
        case Orientation::Turn270:
            cv::flip(from, out, 0);
            break;
        case Orientation::Turn180:
        case Orientation::Transverse:
            cv::flip(from, out, -1);
            break;
    }
    return out;
}

Size FrameGeometry::shownSize() const {
    return swapsSides(orientation) ? Size(stored.height, stored.width) : stored;
}

PointF FrameGeometry::toShown(PointF p) const {
    return turned(p, stored, orientation);
}

PointF FrameGeometry::fromShown(PointF p) const {
    return turned(p, shownSize(), inverse(orientation));
}

Size FrameGeometry::unturnedSensor() const {
    return swapsSides(storedTurn) ? Size(stored.height, stored.width) : stored;
}

PointF FrameGeometry::toSensor(PointF p) const {
    const Size s = sensorSize();
    const Size turnedSensor = swapsSides(storedTurn) ? Size(s.height, s.width) : s;
    return turned(p * (1.0f / scale) + cropOffset, turnedSensor, inverse(storedTurn));
}

PointF FrameGeometry::fromSensor(PointF p) const {
    return (turned(p, sensorSize(), storedTurn) - cropOffset) * scale;
}

namespace {

Rect boxAround(PointF a, PointF b) {
    return {Point(int(std::floor(std::min(a.x, b.x))), int(std::floor(std::min(a.y, b.y)))),
            Point(int(std::ceil(std::max(a.x, b.x))), int(std::ceil(std::max(a.y, b.y))))};
}

}  // namespace

Rect FrameGeometry::boxToSensor(const Rect& box) const {
    return boxAround(toSensor(PointF(box.tl())), toSensor(PointF(box.br())));
}

Rect FrameGeometry::boxFromSensor(const Rect& box) const {
    return boxAround(fromSensor(PointF(box.tl())), fromSensor(PointF(box.br())));
}

}  // namespace gq
