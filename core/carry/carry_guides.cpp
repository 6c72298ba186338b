#include "core/carry/carry_guides.h"

#include <opencv2/imgproc.hpp>

#include "core/carry/same_sensor.h"

namespace gq::carry {
namespace {

/// Cell of one frame's mask -> cell of another's, on cell indices.
cv::Matx23d cellsOf(const FrameGeometry& to, const FrameGeometry& from) {
    constexpr double k = series::kGuideScale;
    const auto mapped = [&](double x, double y) {
        const PointF stored =
            from.fromSensor(to.toSensor({float((x + 0.5) * k), float((y + 0.5) * k)}));
        return cv::Vec2d(double(stored.x) / k - 0.5, double(stored.y) / k - 0.5);
    };
    const auto o = mapped(0, 0), x = mapped(1, 0) - o, y = mapped(0, 1) - o;
    return {x[0], y[0], o[0], x[1], y[1], o[1]};
}

}  // namespace

series::GuidesPtr carriedGuides(const series::Frame& from, const series::Frame& to) {
    if (!from.guides) return nullptr;
    const FrameGeometry &a = from.geometry, &b = to.geometry;
    if (a.stored == b.stored && a.storedTurn == b.storedTurn) return from.guides;
    if (!refusal(from, to).empty()) return nullptr;
    const Size sensor = a.sensorSize();
    const cv::Matx23d map = cellsOf(laidOn(sensor, to).geometry, laidOn(sensor, from).geometry);
    constexpr int k = series::kGuideScale;
    const Size cells((b.stored.width + k - 1) / k, (b.stored.height + k - 1) / k);
    auto out = std::make_shared<find::Guides>(*from.guides);
    for (Mask* mask : {&out->heed, &out->hush, &out->shield, &out->bounds}) {
        if (mask->empty()) continue;
        Mask there;
        cv::warpAffine(*mask, there, map, cells, cv::INTER_LINEAR | cv::WARP_INVERSE_MAP,
                       cv::BORDER_CONSTANT, cv::Scalar(0));
        *mask = there;
    }
    return out;
}

}  // namespace gq::carry
