#include "core/mend/edge_guides.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/guide_lines.h"
#include "core/mend/hole_exits.h"

namespace gq::mend {
namespace {

constexpr int kRing = 32;  ///< px around the hole in which edges are sought
constexpr int kClear = 3;  ///< px from the hole, where blurring still mixes it in
/// Canny's lower bounds, 255ths; what is strong is sought by itself too, undisturbed by texture.
constexpr std::array kFaintest{15.0, 60.0};
constexpr double kStrong = 2.6;             ///< of it, where an edge begins
constexpr int kVotes = 12;                  ///< points of a straight edge
constexpr double kShortest = 14, kGap = 3;  ///< px
constexpr float kTurn = 0.12f;  ///< sine of the angle an edge may have to the line through both
constexpr float kWay = 12;      ///< px at least from rim to rim
constexpr float kSame = 0.7f;   ///< correlation of the steps on both sides
constexpr float kStep = 0.05f;  ///< least step of colour on both sides, 0..1
constexpr float kBeyond = 10;   ///< px outside the hole that a guide begins
constexpr size_t kMost = 4;

using Line = std::vector<PointF>;

/// Where edges are sought: around the hole, but for what is not known.
Mask soughtIn(const Rect& box, const Level& level) {
    Mask unknown = level.hole(box) | level.forbidden(box), ring;
    cv::dilate(unknown, unknown, Mask::ones(2 * kClear + 1, 2 * kClear + 1, CV_8U));
    cv::dilate(level.hole(box), ring,
               cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * kRing + 1, 2 * kRing + 1}));
    return ring & ~unknown;
}

/// Where an edge, prolonged from `from` over `to`, runs into the hole.
std::optional<Exit> entry(const PointF& from, const PointF& to, const Mask& hole) {
    const PointF way = (to - from) / float(cv::norm(to - from));
    for (float t = 1; t < kRing; t += 1) {
        const PointF p = to + way * t;
        const Point pixel{int(p.x), int(p.y)};
        if (!Rect({0, 0}, hole.size()).contains(pixel)) break;
        if (hole.at<uchar>(pixel)) return Exit{p, -way};
    }
    return std::nullopt;
}

/// Straight edges that run up to the hole.
std::vector<Exit> arriving(const Level& level) {
    const Rect box = grown(cv::boundingRect(level.hole), kRing + 4, level.hole.size());
    const Mask sought = soughtIn(box, level);
    cv::Mat grey, edges;
    level.tone()(box).convertTo(grey, CV_8U, 255);
    cv::GaussianBlur(grey, grey, {}, 1.2);
    std::vector<cv::Vec4i> lines;
    for (const double faintest : kFaintest) {
        cv::Canny(grey, edges, faintest, kStrong * faintest);
        std::vector<cv::Vec4i> some;
        cv::HoughLinesP(edges & sought, some, 1, CV_PI / 180, kVotes, kShortest, kGap);
        lines.insert(lines.end(), some.begin(), some.end());
    }
    std::vector<Exit> out;
    for (const auto& l : lines) {
        const PointF corner(box.tl()), half(0.5f, 0.5f),
            a = PointF(Point(l[0], l[1])) + corner + half,
            b = PointF(Point(l[2], l[3])) + corner + half;
        for (const auto& e : {entry(a, b, level.hole), entry(b, a, level.hole)})
            if (e) out.push_back(*e);
    }
    return out;
}

/// How surely one edge goes on as the other; 0 = it does not.
float goesOnAs(const Exit& a, const Exit& b, const Level& level) {
    const PointF way = b.at - a.at;
    const auto length = float(cv::norm(way));
    if (length < kWay) return 0;
    const PointF u = way / length, left(u.y, -u.x);
    if (u.dot(a.out) > 0 || u.dot(b.out) < 0 || std::abs(u.cross(a.out)) > kTurn ||
        std::abs(u.cross(b.out)) > kTurn)
        return 0;
    const auto one = stepsAcross({a.at, -u}, left, level),
               two = stepsAcross({b.at, u}, left, level);
    float both = 0, ones = 0, twos = 0, most = 0;
    for (size_t k = 0; k < std::min(one.size(), two.size()); ++k) {
        const float x = alike(one[k], one[k]), y = alike(two[k], two[k]);
        both += alike(one[k], two[k]);
        ones += x;
        twos += y;
        most = std::max(most, std::min(x, y));
    }
    return most < kStep * kStep || both < kSame * std::sqrt(ones * twos) ? 0 : both;
}

/// Would two guides cross, or lie too near each other to be told apart?
bool clash(const Line& one, const Line& other) {
    const PointF way = (one[1] - one[0]) / float(cv::norm(one[1] - one[0]));
    const auto a = float(way.cross(other[0] - one[0])), b = float(way.cross(other[1] - one[0]));
    return a * b < 0 || std::min(std::abs(a), std::abs(b)) < 2 * kGuideWidth;
}

}  // namespace

std::vector<Line> edgeGuides(const Level& level) {
    const auto edges = arriving(level);
    std::vector<std::pair<float, Line>> lines;
    for (size_t i = 0; i < edges.size(); ++i)
        for (size_t j = i + 1; j < edges.size(); ++j)
            if (const float sure = goesOnAs(edges[i], edges[j], level); sure > 0)
                lines.push_back(
                    {sure,
                     {edges[i].at + edges[i].out * kBeyond, edges[j].at + edges[j].out * kBeyond}});
    std::stable_sort(lines.begin(), lines.end(),
                     [](const auto& a, const auto& b) { return a.first > b.first; });
    std::vector<Line> out;
    for (auto& [sure, line] : lines)
        if (out.size() < kMost &&
            std::none_of(out.begin(), out.end(),
                         [&, &one = line](const Line& o) { return clash(o, one); }))
            out.push_back(std::move(line));
    return out;
}

}  // namespace gq::mend
