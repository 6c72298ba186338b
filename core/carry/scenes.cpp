#include "core/carry/scenes.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/parallel.h"

namespace gq::carry {
namespace {

constexpr int kSome = 4;                      ///< px looked at for one of a view, each way
constexpr double kAround = 3;                 ///< px; sigma of the tones around
constexpr float kFlat = 0.002f;               ///< log light that hardly differs
constexpr int kCoarse = 4;                    ///< px of a view that are compared together
constexpr double kWindow = 3.5;               ///< of those; sigma of what is compared at a place
constexpr float kOther = 0.3f, kSame = 0.5f;  ///< shares of tones that lie the same way
constexpr int kFar = 8;          ///< px of a view; moved by more, scenes do not lie on each other
constexpr double kThing = 7;     ///< px of a view; what it tells of best
constexpr double kMoved = 0.15;  ///< share that tells that one view is another moved

Size viewOf(const Size& sensor, int side) {
    const double k = double(side) / std::max(sensor.width, sensor.height);
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

/// One view of the sensor, from `small`, the frame at the size that the view has it.
cv::Mat viewFrom(const Image& small, const FrameGeometry& g, const Size& view) {
    const cv::Mat signs = signsOf(small);
    if (g.storedTurn == Orientation::Upright && small.size() == view) return signs;
    const float k = float(view.width) / float(g.sensorSize().width),
                shrink = k / g.scale;  // stored px -> px of the small picture
    const auto at = [&](float x, float y) {
        return g.fromSensor(PointF(x + 0.5f, y + 0.5f) / k) * shrink - PointF(0.5f, 0.5f);
    };
    const PointF o = at(0, 0), x = at(1, 0) - o, y = at(0, 1) - o;
    cv::Mat wide, out;
    signs.convertTo(wide, CV_16S);
    cv::warpAffine(wide, wide, cv::Matx23f(x.x, y.x, o.x, x.y, y.y, o.y), view,
                   cv::INTER_NEAREST | cv::WARP_INVERSE_MAP, cv::BORDER_CONSTANT, cv::Scalar(0));
    wide.convertTo(out, CV_8S);
    return out;
}

/// `view` and `seen` where they lie on each other with `seen` moved.
std::pair<cv::Mat, cv::Mat> laid(const cv::Mat& view, const cv::Mat& seen, const Point& by) {
    const Rect whole({0, 0}, view.size()), both = whole & (whole + by);
    return {view(both), seen(both - by)};
}

/// Share of tones that lie the same way, less those that lie the other.
double likeness(const cv::Mat& view, const cv::Mat& seen, const Point& by) {
    const auto [a, b] = laid(view, seen, by);
    return a.dot(b) / double(a.total());
}

/// By how many px of the finest view the whole of `seen` is moved in `view`, from coarse to fine;
/// nothing if it is another scene.
Point movedBy(const SceneView& view, const SceneView& seen) {
    Point at;
    for (size_t i = view.size(); i-- > 0;) {
        const Point from = at * 2;
        const int reach = i + 1 == view.size() ? 3 : 1;
        double best = -1;
        for (int y = -reach; y <= reach; ++y)
            for (int x = -reach; x <= reach; ++x)
                if (const double now = likeness(view[i], seen[i], from + Point(x, y)); now > best)
                    best = now, at = from + Point(x, y);
        if (best < kMoved) return {};
    }
    return at;
}

/// How alike two views are around each place, `seen` moved.
ImageF alikeAt(const cv::Mat& view, const cv::Mat& seen, const Point& by) {
    const auto [a, b] = laid(view, seen, by);
    ImageF both, out;
    cv::multiply(a, b, both, 1, CV_32F);
    cv::copyMakeBorder(both, both, std::max(0, by.y), std::max(0, -by.y), std::max(0, by.x),
                       std::max(0, -by.x), cv::BORDER_REFLECT);
    cv::resize(both, out, {view.cols / kCoarse, view.rows / kCoarse}, 0, 0, cv::INTER_AREA);
    cv::GaussianBlur(out, out, {}, kWindow);
    return out;
}

}  // namespace

SceneView sceneViewOf(const Image& pixels, const FrameGeometry& g) {
    SceneView out;
    Image some = pixels;
    for (int i = 0; i < kSceneViews; ++i) {
        const Size view = viewOf(g.sensorSize(), kSceneSide >> i);
        const float shrink = float(view.width) / float(g.sensorSize().width) / g.scale;
        const Size size(std::max(1, int(std::lround(shrink * float(g.stored.width)))),
                        std::max(1, int(std::lround(shrink * float(g.stored.height)))));
        if (some.cols > size.width * kSome)  // some of the pixels of a large picture will do
            cv::resize(some, some, size * kSome, 0, 0, cv::INTER_NEAREST);
        Image small;
        cv::resize(some, small, size, 0, 0, cv::INTER_AREA);
        out.push_back(viewFrom(small, g, view));
        some = small;
    }
    return out;
}

News Scenes::newsIn(const SceneView& view) const {
    std::vector<std::vector<ImageF>> alike(m_seen.size());  // by view
    forEach(int(m_seen.size()), [&](int k) {
        const SceneView& seen = m_seen[size_t(k)];
        if (seen.front().size() != view.front().size()) return;
        const Point moved = movedBy(view, seen);
        for (size_t i = 0; i < view.size(); ++i) {
            const Point by(moved.x >> i, moved.y >> i);
            const bool near = std::max(std::abs(by.x), std::abs(by.y)) <= kFar;
            alike[size_t(k)].push_back(alikeAt(view[i], seen[i], near ? by : Point()));
        }
    });
    News out;
    for (size_t i = 0; i < view.size(); ++i) {
        ImageF most = ImageF::zeros({view[i].cols / kCoarse, view[i].rows / kCoarse}, CV_32F);
        for (const auto& one : alike)
            if (!one.empty()) most = cv::max(most, one[i]);
        const ImageF known = (most - kOther) / (kSame - kOther);
        out.push_back(1 - ImageF(cv::min(cv::max(known, 0.0f), 1.0f)));
    }
    return out;
}

const ImageF& newsOf(const News& news, double size, const Size& sensor) {
    const double across = size * kSceneSide / std::max(sensor.width, sensor.height);
    const int i = int(std::lround(std::log2(std::max(across, 1.0) / kThing)));
    return news[size_t(std::clamp(i, 0, int(news.size()) - 1))];
}

float meanAt(const ImageF& plane, const Rect& box, const Size& sensor) {
    const double kx = double(plane.cols) / sensor.width, ky = double(plane.rows) / sensor.height;
    const int x = std::clamp(int(box.x * kx), 0, plane.cols - 1),
              y = std::clamp(int(box.y * ky), 0, plane.rows - 1);
    const Rect small(x, y, std::max(1, int(box.width * kx)), std::max(1, int(box.height * ky)));
    return float(cv::mean(plane(small & Rect({0, 0}, plane.size())))[0]);
}

}  // namespace gq::carry
