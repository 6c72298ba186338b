#include "core/carry/scenes.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::carry {
namespace {

constexpr int kSome = 4;                      ///< px looked at for one of a view, each way
constexpr double kAround = 3;                 ///< px; sigma of the tones around
constexpr float kFlat = 0.002f;               ///< log light that hardly differs
constexpr int kCoarse = 4;                    ///< px of a view that are compared together
constexpr double kWindow = 3.5;               ///< of those; sigma of what is compared at a place
constexpr float kOther = 0.3f, kSame = 0.5f;  ///< shares of tones that lie the same way

Size viewOf(const Size& sensor) {
    const double k = double(kSceneSide) / std::max(sensor.width, sensor.height);
    return {std::max(1, int(std::lround(k * sensor.width))),
            std::max(1, int(std::lround(k * sensor.height)))};
}

/// -1, 0 or 1 by how log light lies to what is around.
cv::Mat signsOf(const Image& small) {
    const ImageF light = logLuminance(small);
    ImageF around;
    cv::GaussianBlur(light, around, {}, kAround);
    const cv::Mat above = light - around > kFlat, below = around - light > kFlat;
    return cv::Mat_<schar>(above / 255) - cv::Mat_<schar>(below / 255);
}

}  // namespace

SceneView sceneViewOf(const Image& pixels, const FrameGeometry& g) {
    const Size sensor = g.sensorSize(), view = viewOf(sensor);
    const float k = float(view.width) / float(sensor.width);
    const float shrink = k / g.scale;  // stored px -> px of the small picture
    const Size size(std::max(1, int(std::lround(shrink * float(g.stored.width)))),
                    std::max(1, int(std::lround(shrink * float(g.stored.height)))));
    Image some = pixels, small;  // some of the pixels of a large picture will do
    if (pixels.cols > size.width * kSome)
        cv::resize(pixels, some, size * kSome, 0, 0, cv::INTER_NEAREST);
    cv::resize(some, small, size, 0, 0, cv::INTER_AREA);
    const cv::Mat signs = signsOf(small);
    if (g.storedTurn == Orientation::Upright && small.size() == view) return signs;
    const auto at = [&](float x, float y) {
        return g.fromSensor(PointF(x + 0.5f, y + 0.5f) / k) * shrink - PointF(0.5f, 0.5f);
    };
    const PointF o = at(0, 0), x = at(1, 0) - o, y = at(0, 1) - o;
    SceneView out;
    cv::Mat wide;
    signs.convertTo(wide, CV_16S);
    cv::warpAffine(wide, wide, cv::Matx23f(x.x, y.x, o.x, x.y, y.y, o.y), view,
                   cv::INTER_NEAREST | cv::WARP_INVERSE_MAP, cv::BORDER_CONSTANT, cv::Scalar(0));
    wide.convertTo(out, CV_8S);
    return out;
}

ImageF Scenes::newsIn(const SceneView& view) const {
    const Size coarse(view.cols / kCoarse, view.rows / kCoarse);
    ImageF most = ImageF::zeros(coarse, CV_32F);
    for (const auto& seen : m_seen) {
        if (seen.size() != view.size()) continue;
        ImageF alike;
        cv::multiply(view, seen, alike, 1, CV_32F);
        cv::resize(alike, alike, coarse, 0, 0, cv::INTER_AREA);
        cv::GaussianBlur(alike, alike, {}, kWindow);
        most = cv::max(most, alike);
    }
    const ImageF known = (most - kOther) / (kSame - kOther);
    return 1 - ImageF(cv::min(cv::max(known, 0.0f), 1.0f));
}

float meanAt(const ImageF& plane, const Rect& box, const Size& sensor) {
    const double kx = double(plane.cols) / sensor.width, ky = double(plane.rows) / sensor.height;
    const int x = std::clamp(int(box.x * kx), 0, plane.cols - 1),
              y = std::clamp(int(box.y * ky), 0, plane.rows - 1);
    const Rect small(x, y, std::max(1, int(box.width * kx)), std::max(1, int(box.height * ky)));
    return float(cv::mean(plane(small & Rect({0, 0}, plane.size())))[0]);
}

}  // namespace gq::carry
