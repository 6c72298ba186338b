#include "core/find/similar_tone.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "core/pixels/color.h"

namespace gq::find {
namespace {

constexpr int kReach = 500;      ///< px each way, as large as an area that can be completed
constexpr int kLevels = 128;     ///< of the tolerance
constexpr float kMost = 0.5f;    ///< tolerance, of the scale of tones
constexpr double kSmooth = 1.5;  ///< px, over grain
constexpr double kLeast = 20;    ///< px of area
constexpr double kHole = 0.1;    ///< of the area that an enclosed hole may have to be filled
const std::array<Point, 4> kBeside{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};

uchar level(float difference) {
    return uchar(std::min(float(kLevels), difference / kMost * kLevels));
}

float largest(const cv::Vec3f& v) {
    return std::max({v[0], v[1], v[2]});
}

/// The median of each channel in 5 x 5 px.
cv::Vec3f toneAt(const cv::Mat& tones, Point at) {
    const cv::Mat near = tones(grown(Rect(at, Size(1, 1)), 2, tones.size())).clone();
    cv::Vec3f out;
    for (int c = 0; c < 3; ++c) {
        std::vector<float> values;
        for (const auto& v : cv::Mat_<cv::Vec3f>(near)) values.push_back(v[c]);
        std::nth_element(values.begin(), values.begin() + long(values.size() / 2), values.end());
        out[c] = values[values.size() / 2];
    }
    return out;
}

/// The least tolerance with which each pixel is reached from `at`.
Mask toleranceToReach(const cv::Mat& tones, Point at) {
    const cv::Vec3f own = toneAt(tones, at);
    const Rect all({0, 0}, tones.size());
    Mask out(tones.size(), CV_8U, cv::Scalar(255));
    std::array<std::vector<Point>, kLevels + 1> reached;
    out.at<uchar>(at) = 0;
    reached[0].push_back(at);
    for (size_t l = 0; l < reached.size(); ++l)
        for (size_t i = 0; i < reached[l].size(); ++i)
            for (const Point& step : kBeside) {
                const Point q = reached[l][i] + step;
                if (!all.contains(q) || out.at<uchar>(q) != 255) continue;
                cv::Vec3f off = tones.at<cv::Vec3f>(q) - own;
                for (int c = 0; c < 3; ++c) off[c] = std::abs(off[c]);
                const uchar need = std::max(uchar(l), level(largest(off)));
                out.at<uchar>(q) = need;
                reached[need].push_back(q);
            }
    return out;
}

/// How fast tones change at each pixel, by the channel that changes most.
cv::Mat steepness(const cv::Mat& tones) {
    cv::Mat dx, dy, out(tones.size(), CV_32F);
    const cv::Matx13f across(-1, 0, 1);
    cv::filter2D(tones, dx, CV_32F, across);
    cv::filter2D(tones, dy, CV_32F, across.t());
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const auto &a = dx.at<cv::Vec3f>(y, x), &b = dy.at<cv::Vec3f>(y, x);
            out.at<float>(y, x) = std::sqrt(largest(a.mul(a) + b.mul(b)));
        }
    return out;
}

/// The tolerance under which the outline of what is reached is steepest in the mean. Areas that
/// run into the border are taken only where there is no other.
int steepest(const Mask& reach, const cv::Mat& steep) {
    // What enters and leaves the outline, and the area, at each tolerance.
    std::array<double, 257> slope{}, length{}, area{}, border{};
    for (int y = 0; y < reach.rows; ++y)
        for (int x = 0; x < reach.cols; ++x) {
            const Point p(x, y);
            const int own = reach.at<uchar>(p);
            ++area[size_t(own)];
            border[size_t(own)] += x == 0 || y == 0 || x + 1 == reach.cols || y + 1 == reach.rows;
            for (const Point& q : {Point(x + 1, y), Point(x, y + 1)}) {
                if (q.x >= reach.cols || q.y >= reach.rows) continue;
                const auto [in, out] = std::minmax({own, int(reach.at<uchar>(q))});
                const double s = std::max(steep.at<float>(p), steep.at<float>(q));
                slope[size_t(in)] += s, slope[size_t(out)] -= s;
                ++length[size_t(in)], --length[size_t(out)];
            }
        }
    double s = 0, n = 0, a = 0, edge = 0, best = -1;
    int out = 0;
    for (int l = 0; l < kLevels; ++l) {
        const auto i = size_t(l);
        s += slope[i], n += length[i], a += area[i], edge += border[i];
        if (a < kLeast || n < 1) continue;
        if (edge > 0 && best >= 0) break;
        if (s / n > best) best = s / n, out = l;
    }
    return out;
}

/// Takes off what hangs on to the piece at (or nearest to) `at` by a bridge under a sixth of its
/// size, and 10 px, wide.
void cutBridges(Mask& area, Point at) {
    const double wide =
        std::clamp(std::floor(std::sqrt(double(cv::countNonZero(area))) / 12), 1.0, 5.0);
    cv::Mat depth, pieces;
    cv::distanceTransform(area, depth, cv::DIST_L2, 3);
    cv::connectedComponents(depth > wide, pieces, 4, CV_32S);
    int own = 0;
    double nearest = 1e9;
    const Rect around = grown(Rect(at, Size(1, 1)), 12, area.size());
    for (int y = around.y; y < around.br().y; ++y)
        for (int x = around.x; x < around.br().x; ++x)
            if (const double d = std::hypot(x - at.x, y - at.y);
                pieces.at<int>(y, x) && d < nearest)
                nearest = d, own = pieces.at<int>(y, x);
    if (!own) return;
    cv::Mat away;
    cv::distanceTransform(pieces != own, away, cv::DIST_L2, 3);
    area &= away <= wide + 1.5;
}

void fillSmallHoles(Mask& area) {
    cv::Mat holes, stats, centres;
    const int n = cv::connectedComponentsWithStats(~area, holes, stats, centres, 4);
    const double most = kHole * cv::countNonZero(area);
    const Rect within(1, 1, area.cols - 2, area.rows - 2);
    for (int i = 1; i < n; ++i) {
        const Rect box(stats.at<int>(i, cv::CC_STAT_LEFT), stats.at<int>(i, cv::CC_STAT_TOP),
                       stats.at<int>(i, cv::CC_STAT_WIDTH), stats.at<int>(i, cv::CC_STAT_HEIGHT));
        if ((box & within) == box && stats.at<int>(i, cv::CC_STAT_AREA) < most)
            area(box).setTo(255, holes(box) == i);
    }
}

}  // namespace

Region similarTone(const Image& pixels, Point at) {
    if (!Rect({0, 0}, pixels.size()).contains(at)) return {};
    const Rect box = grown(Rect(at, Size(1, 1)), kReach, pixels.size());
    const Point seed = at - box.tl();
    cv::Mat tones;
    asColour(pixels(box)).convertTo(tones, CV_32FC3, 1 / 65535.0);
    cv::GaussianBlur(tones, tones, {}, kSmooth);
    const Mask reach = toleranceToReach(tones, seed);
    Mask area = reach <= steepest(reach, steepness(tones));
    cutBridges(area, seed);
    fillSmallHoles(area);
    return regionOf(area, box.tl());
}

}  // namespace gq::find
