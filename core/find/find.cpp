#include "core/find/find.h"

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>

#include "core/find/bared_paper.h"
#include "core/find/bridge.h"
#include "core/find/confidence.h"
#include "core/find/corners.h"
#include "core/find/crumbs.h"
#include "core/find/dark_scan.h"
#include "core/find/folds.h"
#include "core/find/hazes.h"
#include "core/find/hollows.h"
#include "core/find/infrared_find.h"
#include "core/find/islands.h"
#include "core/find/join.h"
#include "core/find/kind.h"
#include "core/find/line_ends.h"
#include "core/find/long_scratches.h"
#include "core/find/losses.h"
#include "core/find/stains.h"

namespace gq::find {
namespace {

bool wanted(const Finding& f, const FindPlan& plan) {
    return std::find(plan.kinds.begin(), plan.kinds.end(), f.kind) != plan.kinds.end() &&
           f.measures.size >= plan.smallest &&
           (plan.largest <= 0 || f.measures.size <= plan.largest);
}

/// How far the strength of a search and what is painted move what it believes.
class Ease {
  public:
    /// `easing` of the whole picture, empty = none.
    Ease(float strength, const ImageF& easing)
        : m_doublings((strength - 50) / 50), m_easing(easing) {}

    /// True if any of these may be listed once it is eased.
    [[nodiscard]] bool mayList(float confidence) const {
        const float most = m_doublings + (m_easing.empty() ? 0 : 1);
        return logOdds(confidence) + kADoubling * std::max(most, 0.0f) >= logOdds(kListed);
    }
    /// False if it is not to be listed: mostly shut out, or believed too little now.
    [[nodiscard]] bool operator()(Finding& f) const {
        constexpr double kMostlyShut = 0.3;
        float doublings = m_doublings;
        if (!m_easing.empty()) {
            const ImageF here = m_easing(f.region.box);
            const Mask open = (here > 0) & f.region.mask;
            if (cv::countNonZero(open) < kMostlyShut * f.region.area()) return false;
            doublings += float(std::log2(cv::mean(here, open)[0]));
        }
        if (doublings != 0)
            f.confidence = probability(logOdds(f.confidence) + kADoubling * doublings);
        return f.confidence >= kListed;
    }

  private:
    static constexpr float kADoubling = 2;  ///< log odds
    float m_doublings;
    const ImageF& m_easing;
};

/// A line of a print takes the surer of its two judgements; one that its own hardly believes is no
/// crack, but a hair or scratch as film has them.
void judge(Finding& f, float straightness, const Confidences& sure, size_t i, Origin origin) {
    constexpr float kCrack = 0.5f;
    f.kind = kindOf(f.measures, straightness, origin);
    f.confidence = sure.own[i];
    if (sure.asFilm.empty() || !isLine(f.kind)) return;
    f.confidence = std::max(sure.own[i], sure.asFilm[i]);
    if (sure.own[i] < kCrack && sure.asFilm[i] > sure.own[i])
        f.kind = kindOf(f.measures, straightness, Origin::Negative);
}

std::vector<Finding> judged(const Surveyed& s, const Confidences& sure, const FindPlan& plan,
                            const Ease& ease, const Size& size) {
    std::vector<Finding> out;
    for (size_t i = 0; i < s.regions.size(); ++i) {
        Finding f;
        f.measures = s.described.measures[i];
        judge(f, s.described.features[i][Straightness], sure, i, plan.origin);
        if (!ease.mayList(f.confidence)) continue;
        f.polarity = s.polarity;
        f.region = fullSize(s.regions[i], s.level, size);
        if (!isLine(f.kind) && !f.region.empty()) f.region = closed(f.region);
        if (!f.region.empty() && ease(f)) out.push_back(std::move(f));
    }
    return out;
}

/// What long windows and coarse views add to a picture's own candidates.
struct Others {
    std::vector<Finding> flakes, rest;
};

Others othersOf(const Scales& picture, const FindPlan& plan, std::stop_token stop) {
    const bool print = plan.origin == Origin::Print;
    Others out;
    const auto polarities = polaritiesOf(plan);
    std::vector<std::function<std::vector<Finding>()>> works;
    for (const Polarity p : polarities)  // of sensors nothing
        works.emplace_back([&, p] { return flakes(picture, plan.origin, p, kListed, stop); });
    if (print) {
        works.emplace_back([&] { return stains(picture, kListed, stop); });
        works.emplace_back([&] { return losses(picture, stop); });
    }
    if (plan.origin == Origin::Sensor) works.emplace_back([&] { return hazes(picture, stop); });
    for (const Polarity p : polarities)  // nor here
        works.emplace_back(
            [&, p] { return longScratches(picture, plan.origin, p, kListed, stop); });
    std::vector<std::vector<Finding>> found(works.size());
    forEachAtOnce(
        searchedAtOnce(picture.size()), int(works.size()),
        [&](int i) { found[size_t(i)] = works[size_t(i)](); }, stop);
    for (size_t i = 0; i < found.size(); ++i)
        for (auto& f : found[i])
            (i < polarities.size() ? out.flakes : out.rest).push_back(std::move(f));
    if (print) nameLosses(out.flakes, picture, stop), nameLosses(out.rest, picture, stop);
    return out;
}

/// Adds these, and what infrared shows.
void addOthers(Others others, const FindPlan& plan, const Infrared& infrared, const Ease& ease,
               std::vector<Finding>& all) {
    auto more = std::move(others.rest);
    std::ranges::move(others.flakes, std::back_inserter(more));
    if (!infrared.depth.empty()) {
        confirm(all, infrared);
        confirm(more, infrared);
        for (auto& f : infraredFindings(infrared, plan.origin, polaritiesOf(plan).front()))
            more.push_back(std::move(f));
    }
    for (auto& f : more)
        if (!f.region.empty() && ease(f)) all.push_back(std::move(f));
}

}  // namespace

Result<std::vector<Finding>> find(const Picture& picture, const FindPlan& plan,
                                  const Guides& guides, const Progress& progress,
                                  std::stop_token stop) {
    const bool darkDust = isFilm(plan.origin) && polaritiesOf(plan) == std::vector{Polarity::Dark};
    const Image pixels = darkDust ? lifted(picture.pixels) : picture.pixels;
    const Scales scales(pixels);
    Result<std::vector<Surveyed>> surveyed;
    Others others;
    forEachAtOnce(searchedAtOnce(picture.size()), 2, [&](int i) {
        if (i == 0)
            surveyed = survey(scales, plan, guides, progress, stop);
        else if (!scales.empty())  // the survey refuses that
            others = othersOf(scales, plan, stop);
    });
    if (!surveyed) return tl::unexpected(surveyed.error());
    const auto sure = confidences(*surveyed, plan.origin, picture.size(), stop);
    if (stop.stop_requested()) return cancelled();
    const ImageF easing = guides.easing(picture.size());
    const Ease ease(plan.strength, easing);
    std::vector<Finding> all;
    for (size_t i = 0; i < surveyed->size(); ++i)
        for (auto& f : judged((*surveyed)[i], sure[i], plan, ease, picture.size()))
            all.push_back(std::move(f));
    if (plan.origin == Origin::Print) nameLosses(all, scales, stop);
    if (isFilm(plan.origin)) leaveOutCorners(all, picture.pixels);
    leaveOutFollowed(others.rest, all, picture.size());
    takeUpCrumbs(others.flakes, all);
    addOthers(std::move(others), plan, guides.infrared, ease, all);
    all = joined(std::move(all), picture.size());
    if (plan.origin == Origin::Sensor && addWholes(all, scales, easing, stop))
        all = joined(std::move(all), picture.size());
    // On prints what lies beyond a crack's end is too often the picture's own.
    if (isFilm(plan.origin)) followEnds(all, pixels, stop);
    all = bridged(std::move(all), pixels, plan.origin, stop);
    if (plan.origin == Origin::Print) all = foldsJoined(std::move(all), picture.size());
    if (stop.stop_requested()) return cancelled();
    for (auto& f : all) f.region = openPart(f.region, easing);
    // Not before pieces, whose kinds and sizes are others, are put together.
    std::erase_if(all, [&](const Finding& f) { return f.region.empty() || !wanted(f, plan); });
    return all;
}

}  // namespace gq::find
