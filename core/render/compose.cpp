#include "core/render/compose.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/series/avoided.h"

namespace gq::render {

/// One mend on its way into the picture.
struct Composer::Step {
    const series::MendEntry* entry = nullptr;
    mend::Mend mend;  ///< the entry's, less what is shielded
    Rect read, written;
    std::vector<Region> avoid;
    int round = 0;  ///< mends of one round do not read each other
    std::uint64_t key = 0, content = 0;
    PatchPtr patch;
    Error fault;
};

namespace {

constexpr size_t kSpareBytes = 150'000'000;
constexpr int kSlowArea = 100 * 100;  ///< of a Rebuild's box, from which a draft is worth it

}  // namespace

Composer::Composer(const mend::PatchStore* made) : m_made(made), m_spare(kSpareBytes) {}

std::vector<Composer::Step> Composer::stepsOf(const series::Frame& frame, float line,
                                              const Size& size) {
    std::vector<Step> steps;
    const series::Avoided avoided(frame, line);
    for (const auto& m : frame.mends) {
        if (m.muted || m.mend.region.empty()) continue;
        auto [laid, avoid] = avoided.laid(m.id, m.mend);
        if (laid.region.empty()) continue;
        Step s;
        s.entry = &m;
        s.read = mend::readBox(m.mend, size);
        s.written = mend::footprintBox(laid, size);
        s.mend = std::move(laid);
        s.avoid = std::move(avoid);
        steps.push_back(std::move(s));
    }
    for (size_t i = 0; i < steps.size(); ++i) {
        auto& s = steps[i];
        s.content = mend::contentKey(s.mend);
        s.key = mend::patchKey(s.mend, s.avoid);
        for (size_t j = 0; j < i; ++j) {
            if (!reads(s, steps[j], size)) continue;
            s.round = std::max(s.round, steps[j].round + 1);
            s.key = mend::hashBytes(&steps[j].key, sizeof steps[j].key, s.key);
        }
    }
    return steps;
}

/// Whether a step depends on what an earlier one wrote. A mend that others avoid is read only where
/// both write, by a source that was placed on it, and by Sift, which looks through all there is.
bool Composer::reads(const Step& step, const Step& earlier, const Size& size) {
    const auto& m = step.mend;
    if (mend::keepsPicture(earlier.mend.method) || m.method == mend::Method::Sift ||
        (m.source && mend::hasSource(m.method)))
        return !(earlier.written & step.read).empty();
    return !(earlier.written & step.written).empty() &&
           meets(mend::footprint(earlier.mend, size), mend::footprint(m, size));
}

/// What step `i` reads: the original with the patches of earlier steps that reach into it.
Excerpt Composer::seenBy(const std::vector<Step>& steps, size_t i, const Image& original) {
    const Rect& read = steps[i].read;
    Image part;
    for (size_t j = 0; j < i; ++j) {
        // Those that it does not read may be at work just now.
        if (!reads(steps[i], steps[j], original.size()) || !steps[j].patch) continue;
        if (part.empty()) part = original(read).clone();
        mend::lay(*steps[j].patch, part, read.tl());
    }
    return part.empty() ? Excerpt(original) : Excerpt(part, read.tl(), original.size());
}

/// The step's patch if it was made before.
PatchPtr Composer::had(const Step& step) const {
    {
        const std::lock_guard lock(m_guard);
        const auto old = m_kept.find(step.entry->id);
        if (old != m_kept.end() && old->second.key == step.key) return old->second.patch;
    }
    for (const auto* store : {m_made, &m_spare})
        if (auto made = store ? store->find(step.key) : nullptr) return made;
    return nullptr;
}

Result<PatchPtr> Composer::patchOf(const std::vector<Step>& steps, size_t i, const Image& original,
                                   std::stop_token stop) const {
    const Step& s = steps[i];
    if (auto before = had(s)) return before;
    auto made = mend::makePatch({seenBy(steps, i, original), s.avoid}, s.mend, stop);
    if (!made) return tl::unexpected(made.error());
    return std::make_shared<const mend::Patch>(std::move(*made));
}

Result<PatchPtr> Composer::trial(const Image& original, const series::Frame& frame, float line,
                                 series::Id id, std::stop_token stop) {
    auto steps = stepsOf(frame, line, original.size());
    const auto own = std::ranges::find(steps, id, [](const Step& s) { return s.entry->id; });
    if (own == steps.end()) return fail(Error::Kind::BadSetting, "the mend is not laid");
    const auto last = size_t(own - steps.begin());
    std::vector<bool> needed(last + 1, false);
    needed[last] = true;
    for (size_t i = last; i > 0; --i)
        for (size_t j = 0; needed[i] && j < i; ++j)
            needed[j] = needed[j] || reads(steps[i], steps[j], original.size());
    for (size_t i = 0; i <= last; ++i) {
        if (!needed[i]) continue;
        auto patch = patchOf(steps, i, original, stop);
        if (!patch && i == last) return patch;
        if (patch) m_spare.keep(steps[i].key, steps[i].patch = std::move(*patch));
    }
    return own->patch;
}

void Composer::giveEarly(std::vector<Step> steps, const Image& original, const Early& early,
                         std::stop_token stop) {
    std::vector<size_t> edited;
    bool others = false;
    for (size_t i = 0; i < steps.size(); ++i) {
        const auto old = m_kept.find(steps[i].entry->id);
        if (old == m_kept.end() || old->second.content != steps[i].content) {
            edited.push_back(i);
            continue;
        }
        steps[i].patch = old->second.patch;
        others = others || old->second.key != steps[i].key;
    }
    if (edited.size() != 1) return;
    Step& own = steps[edited[0]];
    const bool draft =
        own.mend.method == mend::Method::Rebuild && own.mend.region.box.area() >= kSlowArea;
    if ((!others && !draft) || had(own)) return;
    auto made =
        mend::makePatch({seenBy(steps, edited[0], original), own.avoid, draft}, own.mend, stop);
    if (!made) return;  // what is wrong is told by the whole
    own.patch = std::make_shared<const mend::Patch>(std::move(*made));
    for (auto& s : steps)
        if (const auto old = m_kept.find(s.entry->id); &s != &own) s.key = old->second.key;
    own.key = 0;
    early(outcomeOf(steps, original));
}

Composer::Outcome Composer::outcomeOf(const std::vector<Step>& steps, const Image& original) {
    Outcome out;
    std::map<series::Id, Kept> kept;
    std::vector<PatchPtr> laid;
    for (const auto& s : steps) {
        if (!s.patch) {
            out.faults.push_back(s.fault);
            continue;
        }
        kept[s.entry->id] = {s.key, s.content, s.patch};
        out.patches[s.entry->id] = s.patch;
        laid.push_back(s.patch);
        const auto old = m_kept.find(s.entry->id);
        if (old == m_kept.end() || old->second.patch != s.patch)
            out.changed.push_back(s.patch->box);
    }
    for (const auto& [id, old] : m_kept)
        if (const auto still = kept.find(id);
            still == kept.end() || still->second.patch != old.patch) {
            out.changed.push_back(old.patch->box);
            if (old.key) m_spare.keep(old.key, old.patch);
        }
    {
        const std::lock_guard lock(m_guard);
        m_kept = std::move(kept);
    }
    out.picture = Composition(original, std::move(laid));
    return out;
}

Result<Composer::Outcome> Composer::compose(const Image& original, const series::Frame& frame,
                                            float line, const Progress& progress,
                                            std::stop_token stop, const Early& early) {
    auto steps = stepsOf(frame, line, original.size());
    if (early) giveEarly(steps, original, early, stop);
    std::atomic<size_t> done{0};
    int rounds = 0;
    for (const auto& s : steps) rounds = std::max(rounds, s.round + 1);
    for (int round = 0; round < rounds; ++round) {
        std::vector<size_t> now;
        for (size_t i = 0; i < steps.size(); ++i)
            if (steps[i].round == round) now.push_back(i);
        const bool all = forEach(
            int(now.size()),
            [&](int i) {
                const size_t index = now[size_t(i)];
                Step& s = steps[index];
                if (auto patch = patchOf(steps, index, original, stop))
                    s.patch = std::move(*patch);
                else
                    s.fault = patch.error();
                if (progress) progress(double(++done) / double(steps.size()));
            },
            stop);
        if (!all) {
            for (const auto& s : steps)
                if (s.patch) m_spare.keep(s.key, s.patch);
            return cancelled();
        }
    }
    return outcomeOf(steps, original);
}

Status mendInPlace(Image& pixels, const series::Frame& frame, float line, std::stop_token stop,
                   const mend::PatchStore* made) {
    Composer composer(made);
    const auto out = composer.compose(pixels, frame, line, {}, stop);
    if (!out) return tl::unexpected(out.error());
    if (!out->faults.empty()) return tl::unexpected(out->faults.front());
    out->picture.layOn(pixels);
    return {};
}

Result<Image> composed(const Image& original, const series::Frame& frame, float line,
                       std::stop_token stop) {
    Image out = original.clone();
    if (auto ok = mendInPlace(out, frame, line, stop); !ok) return tl::unexpected(ok.error());
    return out;
}

}  // namespace gq::render
