#include "core/carry/carry.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <opencv2/core.hpp>

#include "core/carry/chart.h"
#include "core/carry/roll_course.h"
#include "core/carry/same_sensor.h"
#include "core/carry/shadow_series.h"
#include "core/carry/visibility.h"
#include "core/series/avoided.h"

namespace gq::carry {
namespace {

using series::CarriedEntry;
using series::Frame;
using series::Id;
using series::MendEntry;
using series::Verdict;

/// A mend is likely to harm when what it would be made of fits its ring worse than this share of
/// what it changes.
constexpr float kHarm = 0.8f, kHarmKnown = 1.2f;  ///< the latter where a shadow is known to lie
constexpr double kLearning = 0.4;  ///< share of the time that learning the shadows takes

struct Landing {
    const MendEntry* from = nullptr;
    Region region;
    mend::Mend mend;
    Id id = 0;                       ///< its mend's in the frame; 0 = none
    std::optional<Verdict> verdict;  ///< nothing while it shows and is not judged yet
    Region own;                      ///< of the blemish found; empty if a person outlined it
    bool expected = false;           ///< the series tells of it: it is likely to lie here too
    bool line = false;               ///< it was followed along the film, and lies there
    bool known = false;              ///< its shadow lies here, but is better healed
};

/// A line along the film sways from frame to frame: it is looked for.
void followLine(const Image& pixels, const Frame& reference, Landing& l) {
    const auto* found = reference.finding(l.from->finding);
    if (!found) return;
    find::Finding there = found->finding;
    there.region = l.region;
    const auto course = courseOf(there);
    if (!course || runShare(*course, pixels.size()) < kLongEnough) return;
    const auto line = lineIn(pixels, *course);
    if (!line) return;
    l.region = l.mend.region = l.own = line->region;
    l.line = l.expected = true;
}

Point carriedOffset(Point offset, const FrameGeometry& from, const FrameGeometry& to) {
    const PointF zero = to.fromSensor(from.toSensor({0, 0})),
                 moved = to.fromSensor(from.toSensor(PointF(offset)));
    return {int(std::lround(moved.x - zero.x)), int(std::lround(moved.y - zero.y))};
}

bool inside(const Rect& box, const Size& picture) {
    return (box & Rect({0, 0}, picture)) == box;
}

std::vector<const MendEntry*> chosen(const Frame& reference, const CarryPlan& plan) {
    std::vector<const MendEntry*> out;
    for (const auto& m : reference.mends) {
        const bool listed =
            std::find(plan.mends.begin(), plan.mends.end(), m.id) != plan.mends.end();
        if (plan.mends.empty() ? !m.muted : listed) out.push_back(&m);
    }
    return out;
}

/// Takes away what was carried from this frame before: the entries named, and their mends.
void clearEarlier(Frame& frame, const Frame& reference, const CarryPlan& plan,
                  const std::vector<const MendEntry*>& mends) {
    const auto again = [&](const CarriedEntry& c) {
        if (c.fromFrame != reference.id) return false;
        return plan.existing == Existing::Replace ||
               std::any_of(mends.begin(), mends.end(),
                           [&](const auto* m) { return m->id == c.fromMend; });
    };
    for (const auto& c : frame.carried)
        if (again(c) && c.mend)
            std::erase_if(frame.mends, [&](const auto& m) { return m.id == c.mend; });
    std::erase_if(frame.carried, again);
}

/// With what the series knows of the shadow; no verdict where it is to be healed, or cannot be
/// divided out here. False if the frame does not tell whether it shows.
bool unshade(const Image& pixels, const Frame& target, const Shadow& shadow, const CarryPlan& plan,
             Landing& l) {
    ShadowFit fit = fitShadow(shadow, pixels, target);
    fit.clean = fit.clean || !plan.mayHeal;
    if (fit.untold) return false;
    if (!fit.shows) {
        l.verdict = Verdict::NotVisible;
    } else if (plan.unshade && fit.divides()) {
        l.verdict = Verdict::Mended;
        fit.mend.strength = l.mend.strength;
        l.mend = std::move(fit.mend);
    } else {
        l.known = !fit.divides();
    }
    return true;
}

/// Of a blemish that a person outlined, which may be dark or light, by the mend's outline; of one
/// that was found by its own too, since the mend may reach far beyond it.
bool isSeen(const Image& pixels, const Landing& l, const Frame& reference) {
    const auto* found = reference.finding(l.from->finding);
    const auto byMend = visibilityOf(pixels, l.region);
    if (!found) return showsEither(byMend);
    const auto polarity = found->finding.polarity;
    if (shows(byMend, polarity)) return true;
    if (found->finding.kind == find::Kind::Shadow) return false;
    const auto byOwn = visibilityOf(pixels, l.own);
    return l.expected ? shows(byOwn, polarity) : clearlyShows(byOwn, polarity);
}

/// Of a mend that lies in the frame already, by what it would give.
Verdict judged(const Image& pixels, const Landing& l, const series::Avoided::Laid& laid,
               mend::PatchStore* made, std::stop_token stop) {
    auto patch = mend::makePatch({pixels, laid.avoid}, laid.mend, stop);
    if (!patch) return Verdict::NeedsLook;
    float change = patch->change;
    if (l.expected && !l.own.empty())  // what changes is the blemish; its mend may be much larger
        change *= float(cv::countNonZero(patch->footprint)) / float(l.own.area());
    const bool harms = patch->misfit > (l.known ? kHarmKnown : kHarm) * change;
    if (made && !harms)
        made->keep(mend::patchKey(laid.mend, laid.avoid),
                   std::make_shared<const mend::Patch>(std::move(*patch)));
    return harms ? Verdict::NeedsLook : Verdict::Mended;
}

/// True if dividing a shadow out does what the mend is for: not if a source was placed by hand.
bool mayUnshade(const mend::Mend& m) {
    return !m.source && !m.lent &&
           (m.method == mend::Method::Heal || m.method == mend::Method::Span ||
            m.method == mend::Method::Unshade);
}

const Shadow* shadowOf(const MendEntry& m, const Shadows& shadows) {
    const auto known = shadows.find(m.id);
    const bool usable = known != shadows.end() && !known->second.empty() && mayUnshade(m.mend);
    return usable ? &known->second : nullptr;
}

/// A mend that divides a known shadow out reaches far beyond the blemish. Where the shadow is not
/// known, or does not fit, what was found there is healed.
mend::Mend asFound(const MendEntry& m, const Frame& reference) {
    const auto* found = reference.finding(m.finding);
    if (!found || !m.mend.shade) return m.mend;
    mend::Mend out = healedPlace(found->finding.region, reference.geometry.stored);
    out.strength = m.mend.strength;
    return out;
}

/// Where a mend of the reference falls on `target`, from its own source if that is asked and lies
/// inside; an empty region outside.
Landing landingOf(const MendEntry& m, const Frame& reference, const Frame& target,
                  bool sameSource) {
    Landing l{.from = &m, .region = {}, .mend = asFound(m, reference)};
    l.region = carried(l.mend.region, reference.geometry, target.geometry);
    if (const auto* found = reference.finding(m.finding)) {
        l.own = carried(found->finding.region, reference.geometry, target.geometry);
        l.expected = found->charted && found->finding.kind != find::Kind::Shadow;
    }
    l.mend.region = l.region;
    l.mend.source.reset();
    l.mend.lent.reset();
    if (l.region.empty() || !sameSource || !m.mend.source) return l;
    const Size size = target.geometry.stored;
    const Point o = carriedOffset(*m.mend.source, reference.geometry, target.geometry);
    if (inside(mend::footprint(l.mend, size).box + o, size)) l.mend.source = o;
    return l;
}

/// The frame's own finding of the same grain becomes the mend's.
void addMend(const Landing& l, Id id, Frame& out) {
    MendEntry m{id, l.mend};
    for (const auto& f : out.findings)
        if (!out.mendOf(f.id) && l.region.contains(Point(f.finding.region.centre())))
            m.finding = f.id;
    out.mends.push_back(std::move(m));
}

}  // namespace

Result<Frame> pinned(const Image& pixels, const Frame& reference, float line,
                     std::stop_token stop) {
    Frame out = reference;
    const series::Avoided avoided(reference, line);
    forEach(
        int(out.mends.size()),
        [&](int i) {
            auto& m = out.mends[size_t(i)];
            if (m.muted || !mend::hasSource(m.mend.method) || m.mend.source || m.mend.lent) return;
            const auto [laid, avoid] = avoided.laid(m.id, m.mend);
            const auto patch = mend::makePatch({pixels, avoid}, laid, stop);
            if (patch && inside(patch->box + patch->source, pixels.size()) &&
                patch->source != Point())
                m.mend.source = patch->source;
        },
        stop);
    if (stop.stop_requested()) return cancelled();
    return out;
}

Result<Frame> carryTo(const Image& pixels, const Frame& from, const Frame& to,
                      const CarryPlan& plan, float line, Id& nextId, const Shadows& shadows,
                      std::stop_token stop, mend::PatchStore* made) {
    if (const std::string why = refusal(from, to); !why.empty())
        return fail(
            Error::Kind::Refused, why, to.file.string(),
            "Leave it out, tell how it was cut or turned, or make a chart of its own camera.");
    const Size sensor = from.geometry.sensorSize();
    const Frame reference = laidOn(sensor, from), target = laidOn(sensor, to);
    const bool alike = series::correctedAlike(reference, target);
    const auto mends = chosen(reference, plan);
    Frame out = to;
    clearEarlier(out, reference, plan, mends);
    const bool same = alike || plan.source == SourceRule::Same;
    std::vector<Landing> landings;
    for (const auto* m : mends) {
        Landing l = landingOf(*m, reference, target, same);
        if (l.region.empty()) continue;
        if (!same) followLine(pixels, reference, l);
        landings.push_back(std::move(l));
    }
    const auto settle = [&](Landing& l) {
        if (alike) {  // what is put together later must be corrected everywhere
            l.verdict = Verdict::Mended;
            return;
        }
        if (series::unshielded(l.mend, out).region.empty()) {
            l.verdict = Verdict::NotVisible;
            return;
        }
        const Shadow* shadow = shadowOf(*l.from, shadows);
        const bool settled = shadow ? unshade(pixels, target, *shadow, plan, l) : l.line;
        if (!settled && !isSeen(pixels, l, reference)) l.verdict = Verdict::NotVisible;
    };
    if (!forEach(
            int(landings.size()), [&](int i) { settle(landings[size_t(i)]); }, stop))
        return cancelled();
    const size_t before = out.mends.size();
    for (auto& l : landings)
        if (l.verdict != Verdict::NotVisible) addMend(l, l.id = nextId++, out);
    const series::Avoided avoided(out, line);
    const auto judge = [&](Landing& l) {
        if (l.verdict) return;
        l.verdict = judged(pixels, l, avoided.laid(l.id, l.mend), made, stop);
    };
    std::vector<Landing*> largestFirst;  // so that no thread is left with a long one at the end
    for (auto& l : landings) largestFirst.push_back(&l);
    std::stable_sort(largestFirst.begin(), largestFirst.end(), [](const auto* a, const auto* b) {
        return a->region.box.area() > b->region.box.area();
    });
    if (!forEach(
            int(landings.size()), [&](int i) { judge(*largestFirst[size_t(i)]); }, stop))
        return cancelled();
    auto mend = out.mends.begin() + std::ptrdiff_t(before);
    for (const auto& l : landings) {
        if (l.id) (mend++)->muted = l.verdict == Verdict::NeedsLook;
        out.carried.push_back(
            {reference.id, l.from->id, l.id, *l.verdict, l.region, mend::contentKey(l.from->mend)});
    }
    return out;
}

std::vector<series::FramePtr> evenlyPicked(const std::vector<series::FramePtr>& frames,
                                           size_t most) {
    const size_t count = std::min(frames.size(), most);
    std::vector<series::FramePtr> out;
    for (size_t i = 0; i < count; ++i) out.push_back(frames[i * frames.size() / count]);
    return out;
}

Result<Shadows> learnShadows(const Frame& reference, const std::vector<series::FramePtr>& frames,
                             const PixelSource& pixels, const Progress& progress,
                             std::stop_token stop) {
    constexpr size_t kFewest = 4;
    std::vector<Id> ids;
    std::vector<Region> places;
    FrameGeometry sensor;
    sensor.stored = reference.geometry.sensorSize();
    for (const auto& m : reference.mends)
        if (!m.muted && mayUnshade(m.mend)) {
            ids.push_back(m.id);
            places.push_back(carried(m.mend.region, reference.geometry, sensor));
        }
    if (ids.empty() || frames.size() < kFewest) return Shadows{};
    ShadowSeries series(places);
    const auto picked = evenlyPicked(frames);
    const bool all = inOrder(
        int(picked.size()),
        [&](int i) -> Result<Image> {
            const auto& frame = *picked[size_t(i)];
            if (const std::string why = refusal(reference, frame); !why.empty())
                return fail(Error::Kind::Refused, why);
            return pixels(frame, stop);
        },
        [&](int i, const Result<Image>& image) {
            if (image) series.add(*image, laidOn(sensor.stored, *picked[size_t(i)]));
            if (progress) progress(double(i + 1) / double(picked.size()));
        },
        stop);
    if (!all) return cancelled();
    auto solved = series.solved(stop);
    if (!solved) return tl::unexpected(solved.error());
    Shadows out;
    for (size_t i = 0; i < ids.size(); ++i)
        if ((*solved)[i].frames >= int(kFewest)) out[ids[i]] = std::move((*solved)[i]);
    return out;
}

Frame unshaded(const Frame& frame, const Image& pixels, const Shadows& shadows) {
    Frame out = frame;
    forEach(int(out.mends.size()), [&](int i) {
        auto& m = out.mends[size_t(i)];
        const Shadow* shadow = shadowOf(m, shadows);
        if (!shadow) return;
        auto fit = fitShadow(*shadow, pixels, frame);
        if (!fit.shows || fit.mend.region.empty()) return;
        fit.mend.strength = m.mend.strength;
        m.mend = std::move(fit.mend);
    });
    return out;
}

Result<series::Series> carryAll(const series::Series& series, const CarryPlan& plan,
                                const PixelSource& pixels, std::vector<Error>& faults,
                                const Progress& progress, std::stop_token stop) {
    const auto reference = series.frame(plan.reference);
    if (!reference)
        return fail(Error::Kind::NotFound, "there is no such reference frame", plan.reference,
                    "Choose a frame of this series.");
    Shadows shadows;
    if (plan.source == SourceRule::Fresh && series.plan.origin == find::Origin::Sensor) {
        std::vector<series::FramePtr> frames{reference};
        for (const auto& id : plan.targets)
            if (const auto f = series.frame(id); f && id != plan.reference) frames.push_back(f);
        auto learnt =
            learnShadows(*reference, frames, pixels, partOf(progress, 0, kLearning), stop);
        if (!learnt) return tl::unexpected(learnt.error());
        shadows = std::move(*learnt);
    }
    Frame from = *reference;
    const bool alike = std::any_of(plan.targets.begin(), plan.targets.end(), [&](const auto& id) {
        const auto f = series.frame(id);
        return f && id != plan.reference && series::correctedAlike(*reference, *f);
    });
    const bool pins = alike || plan.source == SourceRule::Same;
    if (pins) {
        const auto image = pixels(*reference, stop);
        if (!image) return tl::unexpected(image.error());
        auto fixed = pinned(*image, *reference, series.plan.line, stop);
        if (!fixed) return tl::unexpected(fixed.error());
        from = std::move(*fixed);
    }
    const double start = shadows.empty() ? 0 : kLearning;
    auto out =
        carryFrom(from, shadows, series, plan, pixels, faults, partOf(progress, start, 1), stop);
    return out && pins ? out->with(std::move(from)) : out;
}

namespace {

/// A target with what is carried to it; nothing if there is nothing to carry.
Result<std::optional<Frame>> carriedInto(const Result<Image>& image, const Frame& reference,
                                         const Shadows& shadows, const series::Series& series,
                                         const std::string& target, const CarryPlan& plan,
                                         Id& nextId, std::stop_token stop) {
    if (!image) return tl::unexpected(image.error());
    if (image->empty()) return std::nullopt;
    auto frame = carryTo(*image, reference, *series.frame(target), plan, series.plan.line, nextId,
                         shadows, stop);
    if (!frame) return tl::unexpected(frame.error());
    return std::optional(std::move(*frame));
}

}  // namespace

Result<series::Series> carryFrom(const Frame& reference, const Shadows& shadows,
                                 const series::Series& series, const CarryPlan& plan,
                                 const PixelSource& pixels, std::vector<Error>& faults,
                                 const Progress& progress, std::stop_token stop) {
    series::Series out = series;
    Status status;
    // Files are read two at a time; numbers for new mends are given in order.
    const bool all = inOrder(
        int(plan.targets.size()),
        [&](int i) -> Result<Image> {
            const auto target = series.frame(plan.targets[size_t(i)]);
            if (!target || target->id == reference.id) return Image();
            if (const std::string why = refusal(reference, *target); !why.empty())
                return fail(Error::Kind::Refused, why, target->file.string(),
                            "It was left as it is.");
            return pixels(*target, stop);
        },
        [&](int i, const Result<Image>& image) {
            if (!status) return;
            auto frame = carriedInto(image, reference, shadows, series, plan.targets[size_t(i)],
                                     plan, out.nextId, stop);
            if (frame)
                out = *frame ? out.with(std::move(**frame)) : out;
            else if (frame.error().kind == Error::Kind::Cancelled)
                status = tl::unexpected(frame.error());
            else
                faults.push_back(frame.error());
            if (progress) progress(double(i + 1) / double(plan.targets.size()));
        },
        stop);
    if (!all || !status) return cancelled();
    return out;
}

}  // namespace gq::carry
