#include "core/find/survey.h"

#include <cmath>
#include <mutex>
#include <opencv2/imgproc.hpp>

#include "core/find/closer_look.h"
#include "core/find/confidence.h"

namespace gq::find {

namespace {

std::vector<float> logOddsOf(const Described& described, const Forest* forest) {
    std::vector<float> out(described.features.size());
    forEach(int(out.size()), [&](int i) {
        const auto& f = described.features[size_t(i)];
        out[size_t(i)] = forest ? forest->logOdds(f) : ruleLogOdds(f);
    });
    return out;
}

void look(const Level& level, const Residual& r, const Candidates& all, float least, Surveyed& out,
          std::stop_token stop) {
    for (size_t i = 0; i < out.logOdds.size(); ++i)
        if (out.logOdds[i] > least || (!out.asFilm.empty() && out.asFilm[i] > least))
            out.looked.push_back(i);
    out.looks.resize(out.looked.size());
    forEach(
        int(out.looks.size()),
        [&](int i) { out.looks[size_t(i)] = lookAt(level, r, all, out.looked[size_t(i)]); }, stop);
}

}  // namespace

Region fullSize(const Region& region, int level, const Size& picture) {
    if (level == 0) return region;
    const int k = 1 << level;
    const Rect box(region.box.x * k, region.box.y * k, region.box.width * k, region.box.height * k);
    Mask padded, large;
    cv::copyMakeBorder(region.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
    cv::resize(padded, large, {}, k, k, cv::INTER_LINEAR);
    Region out = regionOf(Mask(large > 110), {box.x - k, box.y - k});
    const Rect in = out.box & Rect({0, 0}, picture);
    if (in == out.box) return out;
    return in.empty() ? Region{}
                      : regionOf(out.mask(Rect(in.tl() - out.box.tl(), in.size())), in.tl());
}

bool searchedAtOnce(const Size& picture) {
    constexpr double kWhole = 30e6;  // px
    return double(picture.width) * picture.height <= kWhole;
}

namespace {

/// Rows of a level that are looked at together, so that the planes of a very large scan never lie
/// in memory all at once.
struct Band {
    int from, to;  ///< rows whose candidates are kept
    Rect read;     ///< these and the surroundings they are judged by
};

std::vector<Band> bandsOf(const Size& level) {
    constexpr double kBand = 18e6;  // px
    constexpr int kAround = 256;    // rows; the widest window of the context
    const double pixels = double(level.width) * level.height;
    const int n = searchedAtOnce(level) ? 1 : int(std::ceil(pixels / kBand));
    std::vector<Band> out;
    for (int i = 0; i < n; ++i) {
        const int from = level.height * i / n, to = level.height * (i + 1) / n,
                  top = std::max(0, from - kAround), bottom = std::min(level.height, to + kAround);
        out.push_back({from, to, Rect(0, top, level.width, bottom - top)});
    }
    return out;
}

/// Moves a band's candidates to the level's coordinates; those centred outside its rows go.
void keepOwn(Surveyed& s, const Band& band) {
    std::vector<size_t> lookOf(s.regions.size(), s.looks.size());
    for (size_t i = 0; i < s.looked.size(); ++i) lookOf[s.looked[i]] = i;
    Surveyed own;
    own.level = s.level;
    own.polarity = s.polarity;
    for (size_t i = 0; i < s.regions.size(); ++i) {
        auto& box = s.regions[i].box;
        box += band.read.tl();
        const int middle = box.y + box.height / 2;
        if (middle < band.from || middle >= band.to) continue;
        if (lookOf[i] < s.looks.size()) {
            own.looked.push_back(own.regions.size());
            own.looks.push_back(s.looks[lookOf[i]]);
        }
        own.regions.push_back(std::move(s.regions[i]));
        own.described.measures.push_back(s.described.measures[i]);
        own.described.features.push_back(s.described.features[i]);
        own.logOdds.push_back(s.logOdds[i]);
        if (!s.asFilm.empty()) own.asFilm.push_back(s.asFilm[i]);
    }
    s = std::move(own);
}

/// One polarity of one band; empty when it was stopped.
Surveyed surveyed(const Level& level, const FindPlan& plan, Polarity p, const ImageF& easing,
                  const LookRule& rule, std::stop_token stop) {
    Surveyed seen;
    const Residual r = residualOf(level, plan.origin, p, stop);
    if (stop.stop_requested()) return seen;
    const float strength = std::exp2((plan.strength - 50) / 50);
    Candidates all = candidatesOf(r, level, plan.origin, strength, easing, stop);
    if (stop.stop_requested()) return seen;
    seen.level = level.plan.level;
    seen.polarity = p;
    seen.described = describe(level, r, all, plan.origin, p, stop);
    seen.logOdds = logOddsOf(seen.described, rule.forest ? rule.forest : forestFor(plan.origin, p));
    if (plan.origin == Origin::Print && !rule.forest)
        seen.asFilm = logOddsOf(seen.described, forestFor(Origin::Negative, p));
    if (hasCloserLook(plan.origin, p)) look(level, r, all, rule.least, seen, stop);
    seen.regions = std::move(all.regions);
    return seen;
}

}  // namespace

Result<std::vector<Surveyed>> survey(const Scales& picture, const FindPlan& plan,
                                     const Guides& guides, const Progress& progress,
                                     std::stop_token stop, const LookRule& rule) {
    if (picture.empty()) return fail(Error::Kind::BadSetting, "there is no picture to search");
    std::vector<LevelPlan> plans;
    std::vector<Image> levels;
    for (const auto& step : levelsOf(plan.origin, picture.size())) {
        const Image& pixels = picture.at(step.level);
        if (std::min(pixels.cols, pixels.rows) < 24) break;
        plans.push_back(step);
        levels.push_back(pixels);
    }
    std::mutex guard;
    double done = 0;
    std::vector<std::vector<Surveyed>> seen(levels.size());
    const auto work = [&](int i) {
        const Image& here = levels[size_t(i)];
        const auto bands = bandsOf(here.size());
        const ImageF easing = guides.easing(here.size());
        for (const auto& band : bands) {
            const Level read = levelOf(here(band.read), plans[size_t(i)], plan.origin, stop);
            for (const Polarity p : polaritiesOf(plan)) {
                if (stop.stop_requested()) return;
                auto& out = seen[size_t(i)];
                out.push_back(surveyed(read, plan, p, easing.empty() ? easing : easing(band.read),
                                       rule, stop));
                if (bands.size() > 1) keepOwn(out.back(), band);
            }
            const std::lock_guard lock(guard);
            done += 1 / double(bands.size());
            if (progress) progress(done / double(levels.size()));
        }
    };
    if (!forEachAtOnce(searchedAtOnce(picture.size()), int(levels.size()), work, stop))
        return cancelled();
    std::vector<Surveyed> out;
    for (auto& ofLevel : seen)
        for (auto& s : ofLevel) out.push_back(std::move(s));
    return out;
}

}  // namespace gq::find
