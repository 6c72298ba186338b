#include "core/find/hazes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "core/find/broad_marks.h"
#include "core/pixels/color.h"

namespace gq::find {
namespace {

constexpr int kSide = 150;  ///< px; the longer side is looked at at up to twice it
constexpr std::array<int, 3> kWindows{41, 71, 111};       ///< px; of the backgrounds
constexpr float kLeastDepth = 0.015f, kMostDepth = 0.2f;  ///< log light held back
constexpr double kLeastArea = 0.0014;                     ///< of the picture's
constexpr float kStands = 3.0f;                           ///< over what the surroundings vary by
constexpr float kMostColour = 0.1f;  ///< change of colour ratios over the dimming
constexpr float kSteepest = 5.0f;    ///< step within it over its depth, times its width
constexpr double kSolid = 0.75;      ///< of its convex hull
constexpr int kBroad = 71, kCalm = 41, kAround = 91;  ///< px; windows of shared views
constexpr float kShared = 3.8f;                       ///< over what all views together vary by
constexpr std::array<int, 6> kApart{13, 19, 29, 37, 47, 53};  ///< px that views are moved by
constexpr int kBorne = 2;                        ///< as clear marks of chance in all of these
constexpr float kAgreeing = 0.7f;                ///< of the views, calm ones counting most
constexpr float kHaze = 0.03f, kLeastSize = 60;  ///< of the longer side, px; dust is smaller
constexpr float kMost = 0.45f;                   ///< confidence; never above the default line

/// Log light and colour ratios of a picture small enough to see broad marks in.
struct Small {
    ImageF light, red, blue;
    int level = 0;
};

ImageF lightOf(const Image& small) {
    ImageF out = logLuminance(small);
    cv::GaussianBlur(out, out, {}, 1.2);
    return out;
}

Small smallOf(const Scales& picture) {
    const auto [level, times] = coarse(picture, kSide);
    Small out;
    out.level = times;
    std::array<ImageF, 3> logs;
    for (int c = 0; c < 3; ++c) {
        cv::Mat one;
        cv::extractChannel(level, one, level.channels() == 3 ? c : 0);
        one.convertTo(one, CV_32F, 1 / 65535.0, 0.01);
        cv::log(one, logs[size_t(c)]);
        cv::GaussianBlur(logs[size_t(c)], logs[size_t(c)], {}, 1.2);
    }
    out.light = lightOf(level);
    out.red = logs[0] - logs[1];
    out.blue = logs[2] - logs[1];
    return out;
}

/// Median over `window` px, in steps of 0.004 log units.
ImageF background(const ImageF& plane, int window) {
    ImageF coarse, out;
    cv::boxFilter(plane, coarse, CV_32F, {window, window}, {-1, -1}, true, cv::BORDER_REFLECT);
    Image8 coded;
    ImageF(plane - coarse).convertTo(coded, CV_8U, 250, 128);
    cv::medianBlur(coded, coded, window);
    coded.convertTo(out, CV_32F, 1 / 250.0, -128 / 250.0);
    return coarse + out;
}

/// A surface of the second degree through the ring of a place, and how far the ring strays from it.
class Surface {
  public:
    Surface(const ImageF& plane, const Rect& box, const Mask& ring)
        : m_middle(box.x + box.width / 2, box.y + box.height / 2),
          m_unit(float(std::max(box.width, box.height))) {
        cv::Mat a(6, 6, CV_64F, cv::Scalar(0)), b(6, 1, CV_64F, cv::Scalar(0));
        std::vector<std::pair<Point, float>> seen;
        for (int y = 0; y < box.height; ++y)
            for (int x = 0; x < box.width; ++x)
                if (ring.at<uchar>(y, x))
                    seen.emplace_back(box.tl() + Point(x, y),
                                      plane.at<float>(box.y + y, box.x + x));
        for (const auto& [p, v] : seen) {
            const auto t = terms(p);
            for (int i = 0; i < 6; ++i) {
                b.at<double>(i) += double(t[size_t(i)] * v);
                for (int k = 0; k < 6; ++k)
                    a.at<double>(i, k) += double(t[size_t(i)] * t[size_t(k)]);
            }
        }
        for (int i = 0; i < 6; ++i) a.at<double>(i, i) += 1e-3 * double(seen.size());
        cv::Mat x;
        cv::solve(a, b, x, cv::DECOMP_CHOLESKY);
        for (int i = 0; i < 6; ++i) m_terms[size_t(i)] = float(x.at<double>(i));
        double square = 0;
        for (const auto& [p, v] : seen) square += std::pow(double(v - at(p)), 2);
        m_strays = seen.empty() ? 1.0f : float(std::sqrt(square / double(seen.size())));
    }
    [[nodiscard]] float at(const Point& p) const {
        const auto t = terms(p);
        float v = 0;
        for (size_t i = 0; i < 6; ++i) v += t[i] * m_terms[i];
        return v;
    }
    [[nodiscard]] float strays() const { return m_strays; }

  private:
    [[nodiscard]] std::array<float, 6> terms(const Point& p) const {
        const float x = float(p.x - m_middle.x) / m_unit, y = float(p.y - m_middle.y) / m_unit;
        return {1, x, y, x * x, x * y, y * y};
    }
    Point m_middle;
    float m_unit;
    std::array<float, 6> m_terms{};
    float m_strays = 1;
};

/// A place and its ring in one box.
struct Surroundings {
    Rect box;
    Mask inside, ring;
};

Surroundings around(const Region& region, const Size& size) {
    const int reach = std::max(3, int(std::sqrt(float(region.area())) * 0.45f));
    const Region near = grown(region, reach, size), far = grown(region, 2 * reach + 2, size);
    Surroundings out{far.box, Mask::zeros(far.box.size(), CV_8U), far.mask.clone()};
    region.mask.copyTo(out.inside(region.box - far.box.tl()));
    out.ring(near.box - far.box.tl()).setTo(0, near.mask);
    return out;
}

/// How far a plane lies above the surface through its surroundings, and how far those stray.
struct Height {
    float mean = 0, strays = 1;
};

Height heightOf(const ImageF& plane, const Surroundings& s) {
    const Surface surface(plane, s.box, s.ring);
    double sum = 0;
    int n = 0;
    for (int y = 0; y < s.box.height; ++y)
        for (int x = 0; x < s.box.width; ++x)
            if (s.inside.at<uchar>(y, x)) {
                const Point p = s.box.tl() + Point(x, y);
                sum += double(plane.at<float>(p) - surface.at(p));
                ++n;
            }
    return {float(sum / std::max(1, n)), surface.strays()};
}

float steepestIn(const ImageF& plane, const Region& region) {
    float most = 0;
    for (int y = 0; y < region.box.height; ++y)
        for (int x = 0; x < region.box.width; ++x)
            if (region.mask.at<uchar>(y, x)) {
                const Point p = region.box.tl() + Point(x, y);
                most = std::max(
                    most,
                    std::hypot(plane.at<float>(p.y, p.x + 1) - plane.at<float>(p.y, p.x - 1),
                               plane.at<float>(p.y + 1, p.x) - plane.at<float>(p.y - 1, p.x)));
            }
    return most / 2;
}

bool solid(const Region& region) {
    std::vector<Point> places, hull;
    cv::findNonZero(region.mask, places);
    cv::convexHull(places, hull);
    return region.area() > kSolid * cv::contourArea(hull);
}

/// The part of a place where it dims most; empty if that reaches the picture's edge.
Region heartOf(const Region& whole, const ImageF& dimmed) {
    double peak = 0;
    cv::minMaxLoc(dimmed(whole.box), nullptr, &peak, nullptr, nullptr, whole.mask);
    Region out = regionOf(Mask((dimmed(whole.box) > peak * 0.4) & whole.mask), whole.box.tl());
    const Rect inner(1, 1, dimmed.cols - 2, dimmed.rows - 2);
    return (out.box & inner) == out.box ? out : Region{};
}

Finding hazeOf(const Region& small, int level, const Size& picture, float depth) {
    Finding f = markOf(small, level, picture, Kind::Shadow, Polarity::Dark, depth);
    f.measures.softness = f.measures.width / 3;
    return f;
}

/// Is it a soft, neutral dimming of calm surroundings?
std::optional<Finding> judged(const Small& at, const Region& region, const Size& picture) {
    const Surroundings s = around(region, at.light.size());
    const Height light = heightOf(at.light, s);
    const float depth = -light.mean, stands = depth / (light.strays + 0.002f);
    if (depth < kLeastDepth || depth > kMostDepth || stands < kStands) return std::nullopt;
    const float colour =
        0.5f * (std::abs(heightOf(at.red, s).mean) + std::abs(heightOf(at.blue, s).mean)) / depth;
    const float steep = steepestIn(at.light, region) * std::sqrt(float(region.area())) / depth;
    if (colour > kMostColour || steep > kSteepest || !solid(region)) return std::nullopt;
    Finding f = hazeOf(region, at.level, picture, depth);
    f.measures.noise = light.strays;
    f.measures.peak = stands;
    f.measures.ring = light.strays / depth;
    f.measures.colour = colour;
    f.confidence = kMost * (1 - std::exp(-stands / 4));
    return f;
}

}  // namespace

std::vector<Finding> hazes(const Scales& picture, std::stop_token stop) {
    const Small at = smallOf(picture);
    std::vector<Finding> out;
    if (std::min(at.light.cols, at.light.rows) < kSide / 3) return out;
    const double least = kLeastArea * double(at.light.total());
    Mask taken = Mask::zeros(at.light.size(), CV_8U);
    for (const int window : kWindows) {
        if (stop.stop_requested()) return {};
        const ImageF dimmed = background(at.light, window) - at.light;
        for (const auto& whole : pieces(Mask(dimmed > kLeastDepth))) {
            if (whole.area() < least || whole.area() > window * window) continue;
            const Region heart = heartOf(whole, dimmed);
            if (heart.area() < least || cv::countNonZero(taken(heart.box) & heart.mask) > 0)
                continue;
            if (auto f = judged(at, heart, picture.size())) {
                paint(taken, heart);
                out.push_back(std::move(*f));
            }
        }
    }
    return out;
}

bool isHaze(const Finding& f, const Size& picture) {
    return f.kind == Kind::Shadow &&
           f.measures.size >
               std::max(kLeastSize, kHaze * float(std::max(picture.width, picture.height)));
}

BroadView broadViewOf(const Scales& picture) {
    const ImageF light = lightOf(coarse(picture, kSide).pixels);
    BroadView out;
    out.dimmed = background(light, kBroad) - light;
    cv::boxFilter(ImageF(cv::min(cv::abs(out.dimmed), 0.3)), out.restless, CV_32F, {kCalm, kCalm});
    return out;
}

BroadlyAt at(const BroadView& view, const Region& region, const Size& picture) {
    Mask whole = Mask::zeros(picture, CV_8U), small;
    paint(whole, region);
    cv::resize(whole, small, view.dimmed.size(), 0, 0, cv::INTER_AREA);
    const Mask inside = small > 127;
    return {float(cv::mean(view.dimmed, inside)[0]), float(cv::mean(view.restless, inside)[0])};
}

namespace {

/// Median of the views at each place, weighted by how calm they are; each view is moved by
/// `apart` px more to the left than the one before, around the edge.
ImageF together(const std::vector<BroadView>& views, int apart) {
    ImageF out(views.front().dimmed.size(), CV_32F);
    std::vector<std::pair<float, float>> all(views.size());
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            float total = 0, sum = 0;
            for (size_t i = 0; i < views.size(); ++i) {
                const int from = (x + int(i) * apart) % out.cols;
                const float restless = views[i].restless.at<float>(y, from) + 0.01f;
                all[i] = {views[i].dimmed.at<float>(y, from), 1 / (restless * restless)};
                total += all[i].second;
            }
            std::sort(all.begin(), all.end());
            size_t middle = 0;
            while ((sum += all[middle].second) < total / 2) ++middle;
            out.at<float>(y, x) = all[middle].first;
        }
    cv::GaussianBlur(out, out, {}, 2);
    return out;
}

/// What stands out of the views' median.
std::vector<Finding> standingOut(const ImageF& dimmed, const Size& sensor) {
    std::vector<Finding> out;
    ImageF usual;
    cv::boxFilter(ImageF(cv::min(cv::abs(dimmed), 0.05)), usual, CV_32F, {kAround, kAround});
    const ImageF z = dimmed / ImageF(usual * 1.25f + 0.002f);
    for (const auto& whole : pieces(Mask(z > kShared / 2))) {
        double peak = 0;
        cv::minMaxLoc(z(whole.box), nullptr, &peak, nullptr, nullptr, whole.mask);
        const Region heart = heartOf(whole, dimmed);
        if (peak < double(kShared) || heart.empty() || !solid(heart)) continue;
        const auto depth = float(cv::mean(dimmed(heart.box), heart.mask)[0]);
        Finding f = hazeOf(heart, halvingsTo(kSide, sensor), sensor, depth);
        f.measures.peak = float(peak);
        if (depth > kLeastDepth && isHaze(f, sensor)) out.push_back(std::move(f));
    }
    return out;
}

/// Whether most views are dimmed by about as much: a mark dims all of them alike.
bool agreed(const std::vector<BroadView>& views, const Finding& mark, const Size& sensor) {
    const float depth = mark.measures.contrast;
    float total = 0, agreeing = 0;
    for (const auto& view : views) {
        const auto [dimmed, restless] = at(view, mark.region, sensor);
        const float weight = 1 / std::pow(restless + depth, 2.0f);
        total += weight;
        if (dimmed > 0.4f * depth && dimmed < 2 * depth) agreeing += weight;
    }
    return depth < kMostDepth && agreeing > kAgreeing * total;
}

}  // namespace

std::vector<Finding> sharedHazes(const std::vector<BroadView>& views, const Size& sensor) {
    if (views.size() < 3) return {};
    auto out = standingOut(together(views, 0), sensor);
    std::erase_if(out, [&](const Finding& f) { return !agreed(views, f, sensor); });
    if (out.empty()) return out;
    // What views that do not lie on each other share is chance: a permutation test.
    std::vector<float> chance;
    for (const int apart : kApart)
        for (const auto& f : standingOut(together(views, apart), sensor))
            chance.push_back(f.measures.peak);
    std::erase_if(out, [&](const Finding& f) {
        return std::count_if(chance.begin(), chance.end(),
                             [&](float peak) { return peak >= f.measures.peak; }) > kBorne;
    });
    return out;
}

}  // namespace gq::find
