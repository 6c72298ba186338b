#include "core/render/compose.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <cstring>

namespace gq::render {
namespace {

/// One mend on its way into the picture.
struct Step {
    const series::MendEntry* entry = nullptr;
    mend::Mend mend;  ///< the entry's, less what is shielded
    Rect read, written;
    std::vector<Region> avoid;
    int round = 0;  ///< mends of one round do not read each other
    std::uint64_t key = 0;
    PatchPtr patch;
    Error fault;
};

/// The soft edge must not reach into a shield either.
int margin(const mend::Mend& m) {
    return m.method == mend::Method::EvenOut ? 0 : int(std::ceil(m.softness));
}

std::vector<Step> stepsOf(const series::Frame& frame, float line, const Size& size) {
    std::vector<Step> steps;
    for (const auto& m : frame.mends) {
        if (m.muted || m.mend.region.empty()) continue;
        Step s;
        s.entry = &m;
        s.mend = m.mend;
        s.read = mend::readBox(m.mend, size);
        if (frame.guides)
            if (auto shield = frame.guides->shieldedIn(s.read, size); !shield.empty()) {
                s.mend.region = without(s.mend.region, grown(shield, margin(m.mend), size));
                if (s.mend.region.empty()) continue;
                s.avoid.push_back(std::move(shield));
            }
        s.written = mend::footprint(s.mend, size).box;
        for (auto& r : series::avoided(frame, m.id, line))
            if (!(r.box & s.read).empty()) s.avoid.push_back(std::move(r));
        steps.push_back(std::move(s));
    }
    for (size_t i = 0; i < steps.size(); ++i) {
        auto& s = steps[i];
        s.key = mend::contentKey(s.mend);
        for (const auto& r : s.avoid) {
            s.key = mend::hashBytes(&r.box, sizeof r.box, s.key);
            s.key = mend::hashBytes(r.mask.data, r.mask.isContinuous() ? r.mask.total() : 0, s.key);
        }
        for (size_t j = 0; j < i; ++j) {
            if ((steps[j].written & s.read).empty()) continue;
            s.round = std::max(s.round, steps[j].round + 1);
            s.key = mend::hashBytes(&steps[j].key, sizeof steps[j].key, s.key);
        }
    }
    return steps;
}

/// `clone()` by all threads: a large copy costs mostly page faults.
Image copied(const Image& from) {
    Image to(from.size(), from.type());
    const size_t bytes = size_t(from.cols) * from.elemSize();
    forRows(from.rows, [&](int y) { std::memcpy(to.ptr(y), from.ptr(y), bytes); });
    return to;
}

}  // namespace

Result<Composer::Outcome> Composer::compose(const Image& original, const series::Frame& frame,
                                            float line, const Progress& progress,
                                            std::stop_token stop) {
    auto steps = stepsOf(frame, line, original.size());
    Outcome out;
    out.pixels = copied(original);
    std::map<series::Id, Kept> kept;
    std::atomic<size_t> done{0};
    int rounds = 0;
    for (const auto& s : steps) rounds = std::max(rounds, s.round + 1);
    for (int round = 0; round < rounds; ++round) {
        std::vector<Step*> now;
        for (auto& s : steps)
            if (s.round == round) now.push_back(&s);
        const bool all = forEach(
            int(now.size()),
            [&](int i) {
                Step& s = *now[size_t(i)];
                const auto old = m_kept.find(s.entry->id);
                if (old != m_kept.end() && old->second.key == s.key)
                    s.patch = old->second.patch;
                else if (auto made = mend::makePatch({out.pixels, s.avoid}, s.mend, stop))
                    s.patch = std::make_shared<const mend::Patch>(std::move(*made));
                else
                    s.fault = made.error();
                if (progress) progress(double(++done) / double(steps.size()));
            },
            stop);
        if (!all) return cancelled();
        for (const Step* s : now)
            if (s->patch) mend::lay(*s->patch, out.pixels);
    }
    for (const auto& s : steps) {
        if (!s.patch) {
            out.faults.push_back(s.fault);
            continue;
        }
        kept[s.entry->id] = {s.key, s.patch};
        out.patches[s.entry->id] = s.patch;
        const auto old = m_kept.find(s.entry->id);
        if (old == m_kept.end() || old->second.patch != s.patch)
            out.changed.push_back(s.patch->box);
    }
    for (const auto& [id, old] : m_kept)
        if (const auto still = kept.find(id);
            still == kept.end() || still->second.patch != old.patch)
            out.changed.push_back(old.patch->box);
    m_kept = std::move(kept);
    return out;
}

Result<Image> composed(const Image& original, const series::Frame& frame, float line,
                       std::stop_token stop) {
    Composer composer;
    auto out = composer.compose(original, frame, line, {}, stop);
    if (!out) return tl::unexpected(out.error());
    if (!out->faults.empty()) return tl::unexpected(out->faults.front());
    return out->pixels;
}

}  // namespace gq::render
