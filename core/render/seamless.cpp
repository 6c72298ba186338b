#include "core/render/seamless.h"

#include "core/mend/checks.h"

namespace gq::render {
namespace {

constexpr float kCannot = 1e9f;

/// A mend, what it gives, and how much is seen of that once it is laid (mend::Checks::shown).
struct Tried {
    mend::Mend mend;
    PatchPtr patch;
    float shown = kCannot;
};

Tried tried(const mend::Setting& setting, const mend::Mend& m, std::stop_token stop) {
    auto patch = mend::makePatch(setting, m, stop);
    if (!patch) return {m, nullptr};
    const Rect box = mend::checkBox(m, setting.pixels.size());
    Image near = setting.pixels(box).clone();
    mend::lay(*patch, near, box.tl());
    const float shown = mend::checked({near, box.tl(), setting.pixels.size()}, m, *patch).shown();
    return {m, std::make_shared<const mend::Patch>(std::move(*patch)), shown};
}

}  // namespace

mend::Mend seamless(const Image& pixels, const std::vector<Region>& avoid, const mend::Mend& mend,
                    mend::PatchStore* made, std::stop_token stop) {
    using enum mend::Method;
    if ((mend.method != Heal && mend.method != Span) || mend.source) return mend;
    Tried best = tried({pixels, avoid}, mend, stop);
    mend::Mend softer = mend, elsewhere = mend;
    softer.softness = mend.softness * 1.5f + 1;
    elsewhere.candidate = 1;  // a third and fourth place pass in one of a hundred
    for (const auto& other : {softer, elsewhere}) {
        if (best.shown <= 1 || stop.stop_requested()) break;
        if (Tried next = tried({pixels, avoid}, other, stop); next.shown < best.shown)
            best = std::move(next);
    }
    if (made && best.patch) made->keep(mend::patchKey(best.mend, avoid), best.patch);
    return best.mend;
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
    mend::Mend other = next;
    for (int i = 0; i < kTries && !stop.stop_requested(); ++i, ++other.candidate)
        if (tried(setting, other, stop).shown <= 1) return other;
    return next;
}

}  // namespace gq::render
