#include "desk/document/live_carry.h"

#include "core/render/export.h"

namespace gq::desk {
using series::Frame;
using series::FramePtr;

LiveCarry::LiveCarry(DeskDocument& document, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_jobs(jobs) {
    connect(&document, &DeskDocument::changed, this, &LiveCarry::follow);
    connect(&document, &DeskDocument::ticksChanged, this, [this] {
        // Other frames may tell what these did not.
        std::erase_if(m_learnt, [](const auto& known) { return known.second.empty(); });
        follow();
    });
    connect(&document, &DeskDocument::leaving, this, [this] { setOn(false); });
}

void LiveCarry::setOn(bool on) {
    m_on = on;
    m_failed.clear();
    m_unpinnable.clear();
    m_learnt.clear();
    if (!on) m_stop.request_stop();
    follow();
}

bool LiveCarry::takesPart(const Frame& reference, const Frame& frame) const {
    return frame.id != reference.id && m_document.ticked(frame.id) && !m_failed.count(frame.id) &&
           carry::refusal(reference, frame).empty();
}

bool LiveCarry::current(const FramePtr& reference, const FramePtr& frame) {
    if (m_reference != reference) {
        m_known.clear();
        m_reference = reference;
        m_keyed = std::make_unique<carry::KeyedReference>(*reference);
    }
    const auto [it, asked] = m_known.try_emplace(frame, false);
    if (asked) it->second = carry::behind(*m_keyed, *frame).empty();
    return it->second;
}

void LiveCarry::follow() {
    const auto s = m_document.now();
    const auto reference = s ? s->frame(s->reference) : nullptr;
    m_frames = m_current = 0;
    if (m_on && reference) {
        for (const auto& f : s->frames) {
            if (!takesPart(*reference, *f)) continue;
            ++m_frames;
            m_current += current(reference, f);
        }
        if (!m_running) next();
    }
    emit changed();
}

void LiveCarry::next() {
    const auto s = m_document.now();
    const auto reference = s->frame(s->reference);
    FramePtr target;
    for (const auto& f : s->frames)
        if (!target && takesPart(*reference, *f) && !current(reference, f)) target = f;
    if (!target) return;
    const auto open = [&](const series::MendEntry& m) {
        return !m.muted && mend::hasSource(m.mend.method) && !m.mend.source && !m.mend.lent &&
               !m_unpinnable.count(mend::contentKey(m.mend));
    };
    if (series::correctedAlike(*reference, *target) &&
        std::any_of(reference->mends.begin(), reference->mends.end(), open))
        return pin(reference);
    if (wantsLearning(*s, *reference, *target)) return learn(reference);
    m_running = true;
    m_stop = m_jobs.run(
        {}, this,
        [reference, target, line = s->plan.line, id = s->nextId, unshade = m_unshade,
         shadows = shadowsOf(*reference)](std::stop_token stop,
                                          const Progress&) mutable -> Result<Frame> {
            const auto pixels = render::originalPixels(*target, stop);
            if (!pixels) return tl::unexpected(pixels.error());
            return carry::caughtUp(*pixels, *reference, *target, line, id, shadows, unshade, stop);
        },
        [=, this](Result<Frame> frame) { take(reference, target, std::move(frame)); });
}

namespace {

/// Of what decides which shadow lies behind a mend; its strength and softness do not.
std::uint64_t shadowKey(const mend::Mend& m) {
    mend::Mend place;
    place.region = m.region;
    place.method = m.method;
    place.source = m.source;
    place.lent = m.lent;
    return mend::contentKey(place);
}

}  // namespace

bool LiveCarry::wantsLearning(const series::Series& s, const Frame& reference,
                              const Frame& target) const {
    return s.plan.origin == find::Origin::Sensor && !series::correctedAlike(reference, target) &&
           std::any_of(reference.mends.begin(), reference.mends.end(), [&](const auto& m) {
               return !m.muted && !m_learnt.count(shadowKey(m.mend));
           });
}

void LiveCarry::learn(const FramePtr& reference) {
    Frame asked = *reference;
    std::erase_if(asked.mends,
                  [&](const auto& m) { return m.muted || m_learnt.count(shadowKey(m.mend)) > 0; });
    std::vector<FramePtr> frames{reference};
    for (const auto& f : m_document.now()->frames)
        if (takesPart(*reference, *f)) frames.push_back(f);
    m_running = true;
    m_stop = m_jobs.run(
        {}, this,
        [asked, frames](std::stop_token stop, const Progress&) {
            return carry::learnShadows(asked, frames, render::originalPixels, {}, stop);
        },
        [this, asked](Result<carry::Shadows> learnt) {
            m_running = false;
            if (learnt)
                for (const auto& m : asked.mends)
                    m_learnt[shadowKey(m.mend)] = std::move((*learnt)[m.id]);
            follow();
        });
}

carry::Shadows LiveCarry::shadowsOf(const Frame& reference) const {
    carry::Shadows out;
    for (const auto& m : reference.mends)
        if (const auto known = m_learnt.find(shadowKey(m.mend));
            known != m_learnt.end() && !known->second.empty())
            out[m.id] = known->second;
    return out;
}

void LiveCarry::pin(const FramePtr& reference) {
    m_running = true;
    m_stop = m_jobs.run(
        {}, this,
        [reference, line = m_document.now()->plan.line](std::stop_token stop,
                                                        const Progress&) -> Result<Frame> {
            const auto pixels = render::originalPixels(*reference, stop);
            if (!pixels) return tl::unexpected(pixels.error());
            return carry::pinned(*pixels, *reference, line, stop);
        },
        [=, this](Result<Frame> fixed) {
            for (const auto& m : (fixed ? *fixed : *reference).mends)
                if (!m.mend.source) m_unpinnable.insert(mend::contentKey(m.mend));
            take(reference, reference, std::move(fixed));
        });
}

void LiveCarry::take(const FramePtr& reference, const FramePtr& target, Result<Frame> frame) {
    m_running = false;
    if (!frame && frame.error().kind != Error::Kind::Cancelled) {
        m_failed.insert(target->id);
        emit m_document.failed(frame.error());
    }
    series::Series s = *m_document.now();
    // An edit made meanwhile comes first; what is lacking then is worked out anew.
    const bool same = s.frame(target->id) == target && s.frame(reference->id) == reference;
    if (!frame || !m_on || !same) return follow();
    for (auto& m : frame->mends)  // ids handed out meanwhile are not given twice
        if (!target->mend(m.id)) {
            for (auto& c : frame->carried)
                if (c.mend == m.id) c.mend = s.nextId;
            m.id = s.nextId++;
        }
    m_document.amend(s.with(std::move(*frame)));  // `follow` comes by its signal
}

}  // namespace gq::desk
