#include "core/carry/same_sensor.h"

#include <fmt/core.h>

#include <cmath>

namespace gq::carry {

using series::Frame;

Frame laidOn(const Size& sensor, Frame frame) {
    FrameGeometry& g = frame.geometry;
    if (g.sensorSize() == sensor || !g.sensor.empty()) return frame;
    const Size turned = swapsSides(g.storedTurn) ? Size(sensor.height, sensor.width) : sensor;
    const double across = double(g.stored.width) / turned.width,
                 down = double(g.stored.height) / turned.height;
    constexpr double kTrimmed = 0.97, kShape = 0.005;
    if (across <= 1 && down <= 1 && across > kTrimmed && down > kTrimmed) {
        g.sensor = sensor;
        g.cropOffset = {float(turned.width - g.stored.width) / 2,
                        float(turned.height - g.stored.height) / 2};
    } else if (std::abs(across / down - 1) < kShape) {
        g.sensor = sensor;
        g.scale = float(across);
    }
    return frame;
}

Result<Frame> asCut(Frame frame, const std::optional<Cut>& cut) {
    FrameGeometry& g = frame.geometry;
    g.sensor = cut ? cut->sensor : Size();
    g.storedTurn = cut ? cut->turn : Orientation::Upright;
    g.cropOffset = cut ? PointF(cut->corner) : PointF();
    g.scale = 1;
    if (!cut) return frame;
    const Size whole =
        swapsSides(cut->turn) ? Size(cut->sensor.height, cut->sensor.width) : cut->sensor;
    const Rect part(cut->corner, g.stored);
    if ((part & Rect({0, 0}, whole)) == part) return frame;
    return fail(Error::Kind::BadSetting,
                fmt::format("{} x {} px from {}, {} on reach beyond the {} x {} px of the sensor",
                            part.width, part.height, part.x, part.y, whole.width, whole.height),
                frame.file.string(), "Give another corner, or another turn.");
}

std::string refusal(const Frame& reference, const Frame& target) {
    if (!reference.camera.empty() && !target.camera.empty() && reference.camera != target.camera)
        return fmt::format("it is from another camera ({} instead of {})", target.camera,
                           reference.camera);
    const Size sensor = reference.geometry.sensorSize();
    if (target.geometry.sensorSize() == sensor) return {};
    if (reference.camera.empty() || target.camera.empty())
        return "it has another size and does not tell its camera";
    const Size own = laidOn(sensor, target).geometry.sensorSize();
    if (own == sensor) return {};
    if (own == Size(sensor.height, sensor.width))
        return "it was turned for good by another program, and nobody told how";
    return fmt::format("its sensor has another shape ({} x {} instead of {} x {})", own.width,
                       own.height, sensor.width, sensor.height);
}

}  // namespace gq::carry
