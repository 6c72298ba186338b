#include "core/find/find.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/confidence.h"
#include "core/find/measure.h"
#include "core/pixels/pyramid.h"

namespace gq::find {
namespace {

constexpr float kListed = 0.06f;  ///< candidates less sure than this are not even listed

/// A level's region in full-size pixels: blown up and its stairs smoothed.
Region fullSize(const Region& region, int level, const Size& picture) {
    const int k = 1 << level;
    const Rect box =
        Rect(region.box.x * k, region.box.y * k, region.box.width * k, region.box.height * k);
    if (level == 0) return region;
    Mask padded, large;
    cv::copyMakeBorder(region.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::resize(padded, large, {}, k, k, cv::INTER_LINEAR);
    Region out = regionOf(Mask(large > 110), {box.x - k, box.y - k});
    const Rect in = out.box & Rect({0, 0}, picture);
    if (in == out.box) return out;
    return in.empty() ? Region{}
                      : regionOf(out.mask(Rect(in.tl() - out.box.tl(), in.size())), in.tl());
}

bool wanted(const Finding& f, const FindPlan& plan) {
    return std::find(plan.kinds.begin(), plan.kinds.end(), f.kind) != plan.kinds.end() &&
           f.measures.size >= plan.smallest &&
           (plan.largest <= 0 || f.measures.size <= plan.largest);
}

void findOnLevel(const Residual& r, Polarity polarity, const FindPlan& plan, const Size& size,
                 std::vector<Finding>& out, std::stop_token stop) {
    const float easing = std::exp2((50 - plan.strength) / 50);
    const Candidates all = candidatesOf(r, polarity, plan.origin, easing);
    const Surroundings around = surroundingsOf(r, all, polarity);
    std::vector<Finding> found(all.regions.size());
    forEach(
        int(found.size()),
        [&](int i) {
            Finding& f = found[size_t(i)];
            f.measures = measure(r, all, around, size_t(i), polarity);
            f.confidence = confidenceOf(f.measures);
            if (f.confidence < kListed) return;
            f.polarity = polarity;
            f.kind = kindOf(f.measures, plan.origin);
            f.region = fullSize(all.regions[size_t(i)], r.level, size);
        },
        stop);
    for (auto& f : found)
        if (!f.region.empty() && wanted(f, plan)) out.push_back(std::move(f));
}

/// Findings of several levels overlap: the surest of a place stays; one that adds a large part of
/// its own stays too.
std::vector<Finding> united(std::vector<Finding> all, const Size& size) {
    std::stable_sort(all.begin(), all.end(), [](const Finding& a, const Finding& b) {
        return a.confidence != b.confidence ? a.confidence > b.confidence
                                            : a.measures.size > b.measures.size;
    });
    Mask taken(size, CV_8U, cv::Scalar(0));
    std::vector<Finding> kept;
    for (auto& f : all) {
        const Mask there = taken(f.region.box);
        Mask both;
        cv::bitwise_and(there, f.region.mask, both);
        if (cv::countNonZero(both) > 0.15 * f.region.area()) continue;
        paint(taken, grown(f.region, 2, size));
        kept.push_back(std::move(f));
    }
    return kept;
}

}  // namespace

Result<std::vector<Finding>> find(const Picture& picture, const FindPlan& plan,
                                  const Progress& progress, std::stop_token stop) {
    if (picture.empty()) return fail(Error::Kind::BadSetting, "there is no picture to search");
    std::vector<Finding> all;
    Image pixels = picture.pixels;
    int level = 0, done = 0;
    const auto& levels = levelsOf(plan.origin);
    for (const auto& step : levels) {
        for (; level < step.level; ++level) pixels = halved(pixels);
        if (std::min(pixels.cols, pixels.rows) < 24) break;
        const Residual r = residualOf(pixels, step, plan.origin, stop);
        if (stop.stop_requested()) return cancelled();
        for (const Polarity p : polaritiesOf(plan))
            findOnLevel(r, p, plan, picture.size(), all, stop);
        if (stop.stop_requested()) return cancelled();
        if (progress) progress(double(++done) / double(levels.size()));
    }
    return united(std::move(all), picture.size());
}

}  // namespace gq::find
