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

std::vector<Look> looksAt(const Level& level, const Residual& r, const Candidates& all,
                          const std::vector<float>& odds) {
    std::vector<size_t> worth;
    for (size_t i = 0; i < odds.size(); ++i)
        if (odds[i] > kWorthALook) worth.push_back(i);
    std::vector<Look> out(worth.size());
    forEach(int(worth.size()),
            [&](int i) { out[size_t(i)] = lookAt(level, r, all, worth[size_t(i)]); });
    return out;
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
                                     std::stop_token stop, const Forest* forest) {
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
            Described described = describe(here, r, all, plan.origin, p, stop);
            auto odds = logOddsOf(described, forest ? forest : forestFor(plan.origin, p));
            auto looks =
                hasCloserLook(plan.origin, p) ? looksAt(here, r, all, odds) : std::vector<Look>{};
            out.push_back({step.level, p, std::move(all.regions), std::move(described),
                           std::move(odds), std::move(looks)});
        }
        if (stop.stop_requested()) return cancelled();
        if (progress) progress(double(++done) / double(levels.size()));
    }
    return out;
}

}  // namespace gq::find
