#include "core/mend/rebuild.h"

#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/edge_guides.h"
#include "core/mend/guide_lines.h"
#include "core/mend/join_copies.h"
#include "core/mend/patch_match.h"
#include "core/mend/rough_fill.h"
#include "core/pixels/parallel.h"

namespace gq::mend {
namespace {

constexpr int kPad = 4;          ///< px added around the window, so that holes at its edge work
constexpr double kCoarsest = 5;  ///< half-width of the hole at the top level, px
constexpr int kSmallest = 60;    ///< px; levels are not made smaller
constexpr float kTexture = 6;    ///< weight of steepness beside colours
constexpr float kNearer = 1.3f;  ///< a vote counts this much less per px from the rim

/// Mean steepness of tone around each known pixel, as a fourth plane: tells calm from busy texture.
/// It is completed like the colours, so that what becomes soft on the way still seeks its texture.
void addTexture(Level& level, int reach) {
    std::array<cv::Mat, 4> planes;
    cv::split(level.values, planes.data());
    const cv::Mat tone = level.tone();
    cv::Mat across, down, known, count;
    cv::Sobel(tone, across, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(tone, down, CV_32F, 0, 1, 3, 0.125);
    cv::erode(~(level.hole | level.forbidden), known, Mask::ones(3, 3, CV_8U));
    known.convertTo(known, CV_32F, 1.0 / 255);
    cv::blur((cv::abs(across) + cv::abs(down)).mul(known), planes[3], {reach, reach});
    cv::blur(known, count, {reach, reach});
    planes[3] = kTexture * planes[3] / cv::max(count, 1e-4f);
    cv::merge(planes.data(), 4, level.values);
}

cv::Mat reducedMask(const Mask& mask, const Size& size, double share) {
    cv::Mat full, small;
    mask.convertTo(full, CV_32F, 1.0 / 255);
    cv::resize(full, small, size, 0, 0, cv::INTER_AREA);
    return small > share;
}

/// Half the size; only known pixels count.
Level halved(const Level& level) {
    const Size size((level.values.cols + 1) / 2, (level.values.rows + 1) / 2);
    cv::Mat known, weights, values;
    cv::Mat(~(level.hole | level.forbidden)).convertTo(known, CV_32F, 1.0 / 255);
    cv::merge(std::vector<cv::Mat>(4, known), weights);
    cv::GaussianBlur(level.values.mul(weights), values, {5, 5}, 1);
    cv::GaussianBlur(weights, weights, {5, 5}, 1);
    cv::resize(values, values, size, 0, 0, cv::INTER_AREA);
    cv::resize(weights, weights, size, 0, 0, cv::INTER_AREA);
    Level out;
    cv::divide(values, cv::max(weights, 1e-4f), out.values);
    out.hole = reducedMask(level.hole, size, 0.25);
    out.forbidden = reducedMask(level.forbidden, size, 0.25) & ~out.hole;
    if (!level.barred.empty()) out.barred = reducedMask(level.barred, size, 0.25);
    cv::resize(level.guide, out.guide, size, 0, 0, cv::INTER_NEAREST);
    cv::resize(level.beside, out.beside, size, 0, 0, cv::INTER_NEAREST);
    out.beside *= 0.5;
    out.lines = level.lines;
    for (auto& line : out.lines)
        for (auto& p : line) p *= 0.5f;
    return out;
}

/// Every hole pixel becomes the vote of the patches over it, or (`copy`) its own match's centre.
void vote(Level& level, const PatchMatch& match, const cv::Mat& depth, bool copy) {
    const auto& targets = match.targets();
    cv::Mat next = level.values.clone();
    if (copy) {
        for (const Point& p : targets)
            if (level.hole.at<uchar>(p)) {
                const Point m = match.match(p);
                next.at<cv::Vec4f>(p) = level.values.at<cv::Vec4f>(m);
            }
        level.values = next;
        return;
    }
    std::vector<float> d;
    d.reserve(targets.size());
    for (const Point& p : targets) d.push_back(match.distance(p));
    const auto upper = d.begin() + long(d.size() * 3 / 4);
    std::nth_element(d.begin(), upper, d.end());
    const float scale = -0.5f / std::max(1e-6f, *upper), fall = std::log(kNearer);
    cv::Mat trust(level.hole.size(), CV_32F, cv::Scalar(0));
    for (const Point& p : targets)
        trust.at<float>(p) =
            std::exp(scale * match.distance(p) - fall * depth.at<float>(p)) + 1e-12f;
    constexpr int h = PatchMatch::kHalf;
    forRows(level.hole.rows, [&](int y) {
        for (int x = 0; x < level.hole.cols; ++x) {
            if (!level.hole.at<uchar>(y, x)) continue;
            Vec4 sum{};
            float total = 0;
            for (int v = -h; v <= h; ++v)
                for (int u = -h; u <= h; ++u) {
                    const int px = x + u, py = y + v;
                    if (px < 0 || py < 0 || px >= trust.cols || py >= trust.rows) continue;
                    const float k = trust.at<float>(py, px);
                    if (k <= 0) continue;
                    const Point m = match.match({px, py});
                    sum += splat(k) * level.at(m.x - u, m.y - v);
                    total += k;
                }
            if (total <= 0) continue;
            sum *= splat(1 / total);
            next.at<cv::Vec4f>(y, x) = {sum[0], sum[1], sum[2], sum[3]};
        }
    });
    level.values = next;
}

struct Rounds {
    int votes, spreads;
};

Level topOf(const Window& w, const std::vector<Point>& hole, const RebuildSettings& s) {
    Level out;
    const Size size(w.width(), w.height());
    cv::Mat values(size, CV_32FC4, const_cast<Vec4*>(w.data()));
    out.hole = Mask(size, CV_8U, cv::Scalar(0));
    for (const Point& p : hole) out.hole.at<uchar>(p) = 255;
    Mask forbidden(size, CV_8U, const_cast<uchar*>(w.forbiddenData()));
    out.forbidden = (forbidden > 0) & ~out.hole;
    if (!s.within.empty()) out.barred = ~s.within;
    out.guide = Mask(size, CV_8U, cv::Scalar(0));
    out.beside = ImageF(size, CV_32F, cv::Scalar(0));
    out.values = values;
    const bool ownEdges = s.guides.empty() && s.seed % 2 == 0;
    layGuides(out, ownEdges ? edgeGuides(out) : s.guides);
    const auto pad = [](cv::Mat& m, int kind, double v) {
        cv::copyMakeBorder(m, m, kPad, kPad, kPad, kPad, kind, cv::Scalar::all(v));
    };
    cv::copyMakeBorder(values, out.values, kPad, kPad, kPad, kPad, cv::BORDER_REPLICATE);
    pad(out.hole, cv::BORDER_REPLICATE, 0);
    pad(out.forbidden, cv::BORDER_CONSTANT, 255);
    out.forbidden &= ~out.hole;
    if (!out.barred.empty()) pad(out.barred, cv::BORDER_REPLICATE, 0);
    pad(out.guide, cv::BORDER_REPLICATE, 0);
    pad(out.beside, cv::BORDER_REPLICATE, 0);
    for (auto& line : out.lines)
        for (auto& p : line) p += PointF(kPad, kPad);
    return out;
}

std::vector<Level> levelsOf(Level top) {
    cv::Mat depth;
    cv::distanceTransform(top.hole, depth, cv::DIST_L2, 3);
    double half = 0;
    cv::minMaxLoc(depth, nullptr, &half);
    std::vector<Level> out{std::move(top)};
    int count = 1;
    for (double h = half; h > kCoarsest; h /= 2) ++count;
    addTexture(out.back(), std::max(7, (1 << count) | 1));
    for (; half > kCoarsest && std::min(out.back().values.cols, out.back().values.rows) > kSmallest;
         half /= 2)
        out.push_back(halved(out.back()));
    return out;
}

/// Hole pixels of `fine` from the level above it.
void enlarge(const Level& coarse, Level& fine) {
    cv::Mat up;
    cv::resize(coarse.values, up, fine.values.size(), 0, 0, cv::INTER_LINEAR);
    up.copyTo(fine.values, fine.hole);
}

/// A first guess of the coarsest level's hole. Narrow parts, such as a strip beside a print, are
/// lost there: where guide lines part the hole it comes from a finer level.
void begin(std::vector<Level>& levels) {
    constexpr size_t kFiner = 2;
    const size_t top = levels.size() - 1,
                 from = levels.front().lines.empty() ? top : std::min(top, kFiner);
    roughFill(levels[from]);
    for (size_t i = from; i < top; ++i) {
        Level& coarse = levels[i + 1];
        cv::Mat down;
        cv::resize(levels[i].values, down, coarse.values.size(), 0, 0, cv::INTER_AREA);
        down.copyTo(coarse.values, coarse.hole | coarse.forbidden);
    }
}

}  // namespace

Status rebuild(Window& w, const std::vector<Point>& hole, const RebuildSettings& s,
               std::stop_token stop) {
    auto levels = levelsOf(topOf(w, hole, s));
    const int top = int(levels.size()) - 1, last = std::min(s.draftLevels, top);
    cv::Mat matches;
    for (int i = top; i >= 0; --i) {
        Level& level = levels[size_t(i)];
        if (i == top)
            begin(levels);
        else
            enlarge(levels[size_t(i) + 1], level);
        if (i < last) continue;
        PatchMatch match(level, std::uint32_t(s.seed) * 31 + 7);
        if (!match.possible()) {
            if (i > 0) continue;
            return fail(
                Error::Kind::BadSetting, "nothing around the area can be copied from", {},
                "Make the area smaller, or take back shields, bounds and findings near it.");
        }
        match.start(matches);
        cv::Mat depth;
        cv::distanceTransform(level.hole, depth, cv::DIST_L2, 3);
        if (!matches.empty()) {  // this level's own pixels instead of enlarged, soft ones
            match.improve(0, stop);
            vote(level, match, depth, false);
        }
        const Rounds rounds = i == top ? Rounds{12, 4} : i == 0 ? Rounds{2, 2} : Rounds{4, 3};
        for (int r = 0; r < rounds.votes; ++r) {
            match.improve(rounds.spreads, stop);
            if (stop.stop_requested()) return cancelled();
            vote(level, match, depth, i == 0 && r + 1 == rounds.votes);
        }
        if (i == 0) joinCopies(level, match, stop);
        if (stop.stop_requested()) return cancelled();
        matches = match.matches().clone();
    }
    const cv::Mat& done = levels.front().values;
    std::vector<Vec4> values;
    for (const Point& p : hole) {
        const auto& v = done.at<cv::Vec4f>(p + Point(kPad, kPad));
        values.push_back(Vec4{v[0], v[1], v[2], 0});
    }
    w.write(hole, values);
    return {};
}

}  // namespace gq::mend
