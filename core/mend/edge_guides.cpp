#include "core/mend/edge_guides.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
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
constexpr float kTurn = 0.12f;      ///< sine of the angle an edge may have to the line through both
constexpr float kCorner = 0.77f;    ///< sine of the angle at which edges meet, at least
constexpr float kOfCorners = 0.5f;  ///< how sure a corner is beside a straight way
constexpr float kWay = 12;          ///< px at least from rim to rim, or to a corner
constexpr float kSame = 0.7f;       ///< correlation of the steps on both sides
constexpr float kStep = 0.05f;      ///< least step of colour on both sides, 0..1
constexpr float kBeyond = 10;       ///< px outside the hole that a guide begins
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

/// How alike colours step across the ways into the hole and out of it again, at most `aside` px
/// apart; 0 = not at all.
float sameStep(const PointF& from, const PointF& in, const PointF& to, const PointF& out,
               const Level& level, int aside) {
    const auto one = stepsAcross({from, -in}, {in.y, -in.x}, level),
               two = stepsAcross({to, out}, {out.y, -out.x}, level);
    const int n = int(std::min(one.size(), two.size()));
    float ones = 0, twos = 0, best = 0;
    for (int k = 0; k < n; ++k) {
        ones += alike(one[size_t(k)], one[size_t(k)]);
        twos += alike(two[size_t(k)], two[size_t(k)]);
    }
    for (int shift = -aside; shift <= aside; ++shift) {
        float both = 0, most = 0;
        for (int k = std::max(0, -shift); k < std::min(n, n - shift); ++k) {
            const Vec4 &x = one[size_t(k)], &y = two[size_t(k + shift)];
            both += alike(x, y);
            most = std::max(most, std::min(alike(x, x), alike(y, y)));
        }
        if (most >= kStep * kStep) best = std::max(best, both);
    }
    return best < kSame * std::sqrt(ones * twos) ? 0 : best;
}

/// A way through the hole that an edge may take.
struct Way {
    float sure = 0;
    Line line;
};

/// One edge goes straight on as the other.
std::optional<Way> straight(const Exit& a, const Exit& b, const Level& level) {
    const PointF way = b.at - a.at;
    const auto length = float(cv::norm(way));
    if (length < kWay) return std::nullopt;
    const PointF u = way / length;
    if (u.dot(a.out) > 0 || u.dot(b.out) < 0 || std::abs(u.cross(a.out)) > kTurn ||
        std::abs(u.cross(b.out)) > kTurn)
        return std::nullopt;
    return Way{sameStep(a.at, u, b.at, u, level, 0),
               {a.at + a.out * kBeyond, b.at + b.out * kBeyond}};
}

/// Both meet in the hole, as at the corner of a print.
std::optional<Way> corner(const Exit& a, const Exit& b, const Level& level) {
    const auto sine = float(a.out.cross(b.out));
    if (std::abs(sine) < kCorner) return std::nullopt;
    const PointF between = b.at - a.at;
    const auto s = -float(between.cross(b.out)) / sine, t = -float(between.cross(a.out)) / sine;
    if (std::min(s, t) < kWay) return std::nullopt;
    const PointF at = a.at - a.out * s;
    const Point pixel{int(at.x), int(at.y)};
    if (!Rect({0, 0}, level.hole.size()).contains(pixel) || !level.hole.at<uchar>(pixel))
        return std::nullopt;
    return Way{kOfCorners * sameStep(a.at, -a.out, b.at, b.out, level, 2),
               {a.at + a.out * kBeyond, at, b.at + b.out * kBeyond}};
}

/// From a point to the nearest of a line.
float distance(const PointF& p, const Line& line) {
    float nearest = std::numeric_limits<float>::max();
    for (size_t i = 1; i < line.size(); ++i) {
        const PointF way = line[i] - line[i - 1], to = p - line[i - 1];
        const float along = std::clamp(float(to.dot(way) / way.dot(way)), 0.0f, 1.0f);
        nearest = std::min(nearest, float(cv::norm(to - way * along)));
    }
    return nearest;
}

/// Would two guides cross, or lie too near each other to be told apart?
bool clash(const Line& one, const Line& other) {
    constexpr float kPace = 2;  // px
    for (size_t i = 1; i < one.size(); ++i) {
        const PointF way = one[i] - one[i - 1];
        const int paces = int(float(cv::norm(way)) / kPace) + 1;
        for (int k = 0; k <= paces; ++k)
            if (distance(one[i - 1] + way * (float(k) / float(paces)), other) < 2 * kGuideWidth)
                return true;
    }
    return false;
}

}  // namespace

std::vector<Line> edgeGuides(const Level& level) {
    const auto edges = arriving(level);
    std::vector<Way> ways;
    for (size_t i = 0; i < edges.size(); ++i)
        for (size_t j = i + 1; j < edges.size(); ++j)
            for (auto& way :
                 {straight(edges[i], edges[j], level), corner(edges[i], edges[j], level)})
                if (way && way->sure > 0) ways.push_back(*way);
    std::ranges::stable_sort(ways, std::greater(), &Way::sure);
    std::vector<Line> out;
    for (auto& way : ways)
        if (out.size() < kMost &&
            std::ranges::none_of(out, [&](const Line& o) { return clash(o, way.line); }))
            out.push_back(std::move(way.line));
    return out;
}

}  // namespace gq::mend
