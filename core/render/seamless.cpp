#include "core/render/seamless.h"

#include "core/mend/checks.h"

namespace gq::render {
namespace {

constexpr float kCannot = 1e9f;

/// How much is seen of a mend once it is laid (mend::Checks::shown).
float shown(const mend::Setting& setting, const mend::Mend& m, std::stop_token stop) {
    const auto patch = mend::makePatch(setting, m, stop);
    if (!patch) return kCannot;
    const Rect box = mend::checkBox(m, setting.pixels.size());
    Image near = setting.pixels(box).clone();
    mend::lay(*patch, near, box.tl());
    return mend::checked({near, box.tl(), setting.pixels.size()}, m, *patch).shown();
}

}  // namespace

mend::Mend seamless(const Image& pixels, const std::vector<Region>& avoid, const mend::Mend& mend,
                    std::stop_token stop) {
    using enum mend::Method;
    if ((mend.method != Heal && mend.method != Span) || mend.source) return mend;
    mend::Mend best = mend;
    float least = shown({pixels, avoid}, mend, stop);
    mend::Mend softer = mend, elsewhere = mend;
    softer.softness = mend.softness * 1.5f + 1;
    elsewhere.candidate = 1;  // a third and fourth place pass in one of a hundred
    for (const auto& other : {softer, elsewhere}) {
        if (least <= 1 || stop.stop_requested()) break;
        const float seen = shown({pixels, avoid}, other, stop);
        if (seen < least) least = seen, best = other;
    }
    return best;
}

mend::Mend anotherResult(const Composition& others, const std::vector<Region>& avoid,
                         const mend::Mend& mend, std::stop_token stop) {
    constexpr int kTries = 6;
    mend::Mend next = mend;
    next.source.reset();
    next.lent.reset();
    ++next.candidate;
    if (!mend::hasSource(mend.method)) return next;
    const Rect box = mend::readBox(next, others.size()) | mend::checkBox(next, others.size());
    const Image near = others.part(box);
    const mend::Setting setting{{near, box.tl(), others.size()}, avoid};
    mend::Mend tried = next;
    for (int i = 0; i < kTries && !stop.stop_requested(); ++i, ++tried.candidate)
        if (shown(setting, tried, stop) <= 1) return tried;
    return next;
}

}  // namespace gq::render
