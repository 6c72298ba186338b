#include "core/find/join.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <opencv2/imgproc.hpp>

#include "core/find/crumbs.h"
#include "core/find/run.h"
#include "core/pixels/thickness.h"

namespace gq::find {
namespace {

constexpr float kSure = 0.3f;  ///< pieces less sure than this are not joined to others

/// Who is asked first for a place: losses, then sure long lines, then the rest.
int rank(const Finding& f) {
    if (f.kind == Kind::Loss && f.confidence >= 0.5f) return 0;
    return isLine(f.kind) && f.confidence >= 0.5f && f.measures.length > 100 ? 1 : 2;
}

/// Both ends of a piece of line with the headings out of it.
struct Ends {
    PointF at[2], out[2];
    float length = 0, width = 1;
    bool line = false;
};

PointF unit(PointF v) {
    const float n = std::hypot(v.x, v.y);
    return n > 0 ? v * (1 / n) : PointF{};
}

Ends endsOf(const Finding& f) {
    Ends e;
    if (!isLine(f.kind) || f.confidence < kSure) return e;
    const auto run = runOf(f.region);
    if (run.size() < 3) return e;
    const size_t back = std::min<size_t>(run.size() - 1, 4);
    e.at[0] = run.front();
    e.at[1] = run.back();
    e.out[0] = unit(run.front() - run[back]);
    e.out[1] = unit(run.back() - run[run.size() - 1 - back]);
    e.length = lengthOf(run);
    e.width = std::max(1.0f, f.measures.width);
    e.line = true;
    return e;
}

/// Do two pieces follow on from each other? The gap may be as long as half the shorter one.
bool follow(const Ends& a, const Ends& b, Kind kind) {
    const float most = 0.5f * std::min(a.length, b.length) + 8;
    for (int i = 0; i < 2; ++i)
        for (int j = 0; j < 2; ++j) {
            const PointF gap = b.at[j] - a.at[i];
            const float far = std::hypot(gap.x, gap.y);
            if (far > most) continue;
            if (kind == Kind::Crack && far < 8) return true;  // a branch
            const float facing = -a.out[i].dot(b.out[j]);
            const float aside = std::abs(gap.x * a.out[i].y - gap.y * a.out[i].x);
            if (facing > 0.9f && aside < 2 + 1.5f * a.width + 0.1f * far &&
                gap.dot(a.out[i]) > -0.3f * most)
                return true;
        }
    return false;
}

std::vector<Finding> linked(std::vector<Finding> all, const Size& picture) {
    std::vector<Ends> ends;
    for (const auto& f : all) ends.push_back(endsOf(f));
    std::vector<size_t> group(all.size());
    std::iota(group.begin(), group.end(), size_t(0));
    const auto top = [&](size_t i) {
        while (group[i] != i) i = group[i];
        return i;
    };
    for (size_t i = 0; i < all.size(); ++i)
        for (size_t j = i + 1; ends[i].line && j < all.size(); ++j)
            if (ends[j].line && all[i].polarity == all[j].polarity &&
                follow(ends[i], ends[j], all[i].kind)) {
                const size_t a = top(i), b = top(j);
                group[std::max(a, b)] = std::min(a, b);
            }
    std::vector<Finding> out;
    for (size_t i = 0; i < all.size(); ++i) {
        if (group[i] != i) continue;
        for (size_t j = i + 1; j < all.size(); ++j)
            if (group[j] != j && top(j) == i) absorb(all[i], all[j], picture);
        out.push_back(std::move(all[i]));
    }
    return out;
}

/// True of a blot or a hair that a long line crosses, but which is no piece of that line: it
/// reaches beyond, where little is taken.
bool reachesBeyond(const Finding& f, const std::vector<Region>& lines, const Mask& taken,
                   double allowed) {
    constexpr double kThick = 2.5, kFar = 8;  // px
    if (f.confidence < 0.5f) return false;
    Mask off(f.region.box.size(), CV_8U, cv::Scalar(255));
    for (const Region& line : lines)
        if (const Rect shared = line.box & f.region.box; !shared.empty())
            off(shared - f.region.box.tl()).setTo(0, line.mask(shared - line.box.tl()));
    const Region rest = regionOf(Mask(f.region.mask & off), f.region.box.tl());
    if (rest.empty() || cv::countNonZero(taken(rest.box) & rest.mask) > allowed * rest.area())
        return false;
    if (!isLine(f.kind)) return inscribedRadius(rest) > kThick;
    cv::Mat away;
    cv::distanceTransform(off, away, cv::DIST_L2, 3);
    double farthest = 0;
    cv::minMaxLoc(away, nullptr, &farthest, nullptr, nullptr, f.region.mask);
    return 2 * rest.area() > f.region.area() && farthest > kFar;
}

}  // namespace

void absorb(Finding& into, const Finding& piece, const Size& picture) {
    const Rect box = into.region.box | piece.region.box;
    Mask mask(box.size(), CV_8U, cv::Scalar(0));
    for (const Region* r : {&std::as_const(into).region, &piece.region}) {
        cv::Mat part = mask(r->box - box.tl());
        cv::bitwise_or(part, r->mask, part);
    }
    const float area = float(into.region.area() + piece.region.area());
    into.region = {box & Rect({0, 0}, picture), mask};
    into.measures.length += piece.measures.length;
    into.measures.width = area / into.measures.length;
    into.measures.size = std::sqrt(area * 1.273f);
    into.confidence = std::max(into.confidence, piece.confidence);
}

std::vector<Finding> joined(std::vector<Finding> all, const Size& picture) {
    const auto standings = standingsOf(all);
    std::vector<size_t> order(all.size());
    std::iota(order.begin(), order.end(), size_t(0));
    std::stable_sort(order.begin(), order.end(), [&](size_t i, size_t j) {
        const Finding &a = all[i], &b = all[j];
        const int x = rank(a), y = rank(b);
        if (x != y) return x < y;
        if (x == 1) return a.measures.length > b.measures.length;
        const Standing &p = standings[i], &q = standings[j];
        if (p.surest != q.surest) return p.surest > q.surest;
        if (p.depth != q.depth) return p.depth > q.depth;
        return a.confidence != b.confidence ? a.confidence > b.confidence
                                            : a.measures.size > b.measures.size;
    });
    // Broad marks lie under others: what is on a stain is found and mended for itself.
    Mask taken(picture, CV_8U, cv::Scalar(0)), under = taken.clone();
    std::vector<Region> lines;
    std::vector<Finding> kept;
    for (const size_t i : order) {
        Finding& f = all[i];
        Mask& layer = broad(f) ? under : taken;
        Mask both;
        cv::bitwise_and(layer(f.region.box), f.region.mask, both);
        const double allowed = isLine(f.kind) ? 0.15 : 0.4;
        if (cv::countNonZero(both) > allowed * f.region.area() &&
            !reachesBeyond(f, lines, layer, allowed))
            continue;
        Region wide = grown(f.region, 2, picture);
        paint(layer, wide);
        if (rank(f) == 1) lines.push_back(std::move(wide));
        kept.push_back(std::move(f));
    }
    kept = linked(std::move(kept), picture);
    std::stable_sort(kept.begin(), kept.end(), [](const Finding& a, const Finding& b) {
        return a.confidence > b.confidence;
    });
    return kept;
}

}  // namespace gq::find
