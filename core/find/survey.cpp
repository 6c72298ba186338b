#include "core/find/survey.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/closer_look.h"
#include "core/find/confidence.h"
#include "core/pixels/pyramid.h"

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

void look(const Level& level, const Residual& r, const Candidates& all, float least,
          Surveyed& out) {
    for (size_t i = 0; i < out.logOdds.size(); ++i)
        if (out.logOdds[i] > least) out.looked.push_back(i);
    out.looks.resize(out.looked.size());
    forEach(int(out.looks.size()),
            [&](int i) { out.looks[size_t(i)] = lookAt(level, r, all, out.looked[size_t(i)]); });
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

Result<std::vector<Surveyed>> survey(const Picture& picture, const FindPlan& plan,
                                     const Guides& guides, const Progress& progress,
                                     std::stop_token stop, const LookRule& rule) {
    if (picture.empty()) return fail(Error::Kind::BadSetting, "there is no picture to search");
    const float strength = std::exp2((50 - plan.strength) / 50);
    std::vector<Surveyed> out;
    Image pixels = picture.pixels;
    int level = 0, done = 0;
    const auto levels = levelsOf(plan.origin, picture.size());
    for (const auto& step : levels) {
        for (; level < step.level; ++level) pixels = halved(pixels);
        if (std::min(pixels.cols, pixels.rows) < 24) break;
        const Level here = levelOf(pixels, step, plan.origin, stop);
        const ImageF easing = guides.easing(pixels.size());
        for (const Polarity p : polaritiesOf(plan)) {
            if (stop.stop_requested()) return cancelled();
            const Residual r = residualOf(here, plan.origin, p, stop);
            if (stop.stop_requested()) return cancelled();
            Candidates all = candidatesOf(r, here, plan.origin, strength, easing);
            if (stop.stop_requested()) return cancelled();
            Surveyed seen;
            seen.level = step.level;
            seen.polarity = p;
            seen.described = describe(here, r, all, plan.origin, p, stop);
            seen.logOdds =
                logOddsOf(seen.described, rule.forest ? rule.forest : forestFor(plan.origin, p));
            if (hasCloserLook(plan.origin, p)) look(here, r, all, rule.least, seen);
            seen.regions = std::move(all.regions);
            out.push_back(std::move(seen));
        }
        if (stop.stop_requested()) return cancelled();
        if (progress) progress(double(++done) / double(levels.size()));
    }
    return out;
}

}  // namespace gq::find
