#include "desk/document/mend_work.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/find/similar_tone.h"
#include "core/find/trace.h"
#include "core/render/export.h"
#include "core/render/lend.h"
#include "core/render/remnant.h"
#include "core/render/seamless.h"
#include "core/series/avoided.h"
#include "desk/look/convert.h"

namespace gq::desk {
using series::Frame;
using series::Id;

QString nameOf(mend::Method method) {
    switch (method) {
        case mend::Method::Heal:
            return MendWork::tr("Heal");
        case mend::Method::Clone:
            return MendWork::tr("Clone");
        case mend::Method::Span:
            return MendWork::tr("Span");
        case mend::Method::Rebuild:
            return MendWork::tr("Rebuild");
        case mend::Method::EvenOut:
            return MendWork::tr("Even out");
        case mend::Method::Unshade:
            return MendWork::tr("Unshade");
        case mend::Method::TouchIn:
            return MendWork::tr("Touch-in");
        case mend::Method::Sift:
            return MendWork::tr("Sift");
    }
    return {};
}

MendWork::MendWork(DeskDocument& document, Pictures& pictures, Work& work, Jobs& jobs,
                   QObject* parent)
    : QObject(parent), m_document(document), m_pictures(pictures), m_work(work), m_jobs(jobs) {
    constexpr int kRest = 250;  // ms
    m_calm.setSingleShot(true);
    m_calm.setInterval(kRest);
    connect(&m_calm, &QTimer::timeout, this, &MendWork::look);
    const auto soon = [this] {
        m_stop.request_stop();
        if (m_candidatesOf && m_candidatesOf != choice()) dropCandidates();
        m_calm.start();
    };
    connect(&document, &DeskDocument::selectionChanged, this, soon);
    connect(&pictures, &Pictures::touched, this, soon);
}

void MendWork::add(mend::Mend mend, const QString& what) {
    if (mend.region.empty()) return;
    Id made = 0;
    m_work.edit(what, [&](Frame& f, Id& next) {
        made = next++;
        f.mends.push_back({made, std::move(mend), 0, false, {}});
        return true;
    });
    m_document.select(made);
}

void MendWork::addMade(const QString& name, const QString& what,
                       std::function<mend::Mend(const Image&)> make) {
    const auto frame = m_pictures.frame();
    if (!frame) return;
    m_jobs.run(
        name, this,
        [make = std::move(make), original = m_pictures.original()](
            std::stop_token stop, const Progress&) -> Result<mend::Mend> {
            mend::Mend made = make(original);
            if (stop.stop_requested()) return cancelled();
            return made;
        },
        [this, what, id = frame->id](Result<mend::Mend> made) {
            const auto current = m_document.current();
            if (made && current && current->id == id) add(std::move(*made), what);
        });
}

void MendWork::followLine(PointF at) {
    addMade(tr("Following the line"), tr("follow a line"), [at](const Image& original) {
        mend::Mend m;
        const auto line = find::traceLine(original, at);
        if (line.path.empty()) return m;
        m.region = stroke(line.path, line.width + 3, original.size());
        m.method = mend::Method::Span;
        m.softness = 1;
        return m;
    });
}

void MendWork::takeSimilar(PointF at, float softness) {
    addMade(tr("Looking for the same tone"), tr("similar tone"), [=](const Image& original) {
        mend::Mend m;
        m.region = grown(find::similarTone(original, Point(at)), 1, original.size());
        m.method = mend::methodFor(m.region);
        m.softness = softness;
        return m;
    });
}

void MendWork::preview(const Setting& setting) {
    const auto current = m_document.current();
    if (!current) return;
    auto frame = std::make_shared<Frame>(*current);
    const auto chosen = m_document.chosenMends();
    for (auto& m : frame->mends)
        if (std::find(chosen.begin(), chosen.end(), m.id) != chosen.end()) setting(m.mend);
    m_pictures.preview(frame);
}

void MendWork::change(const QString& what, const Setting& setting) {
    m_pictures.preview(nullptr);
    const auto chosen = m_document.chosenMends();
    m_work.edit(what, [&](Frame& f, Id&) {
        bool any = false;
        for (auto& m : f.mends) {
            if (std::find(chosen.begin(), chosen.end(), m.id) == chosen.end()) continue;
            const auto before = mend::contentKey(m.mend);
            setting(m.mend);
            any = any || mend::contentKey(m.mend) != before;
        }
        return any;
    });
}

void MendWork::reshape(const Region& region, bool take) {
    change(take ? tr("take from the outline") : tr("add to the outline"), [&](mend::Mend& m) {
        Region next = take ? without(m.region, region) : together(m.region, region);
        if (!next.empty()) m.region = std::move(next);
    });
}

void MendWork::grow(int by) {
    const auto frame = m_document.current();
    if (!frame) return;
    const Size size = frame->geometry.stored;
    change(by > 0 ? tr("grow the outline") : tr("shrink the outline"), [&](mend::Mend& m) {
        if (by > 0) {
            m.region = grown(m.region, by, size);
            return;
        }
        Mask padded, small;
        cv::copyMakeBorder(m.region.mask, padded, 1, 1, 1, 1, cv::BORDER_CONSTANT, cv::Scalar(0));
        cv::erode(padded, small, Mask::ones(3, 3, CV_8U), {-1, -1}, -by);
        if (Region next = regionOf(small, m.region.box.tl() - Point(1, 1)); !next.empty())
            m.region = std::move(next);
    });
}

void MendWork::nudge(Point by) {
    const auto frame = m_document.current();
    if (!frame) return;
    const Rect all({0, 0}, frame->geometry.stored);
    change(tr("nudge"), [&](mend::Mend& m) {
        const Rect moved = m.region.box + by;
        if ((moved & all) != moved) return;
        m.region.box = moved;
        if (m.shade)
            m.shade = std::make_shared<const mend::KnownShade>(
                mend::KnownShade{m.shade->box + by, m.shade->logShare});
    });
}

void MendWork::addGuide(const std::vector<PointF>& line) {
    change(tr("draw a guide"), [&](mend::Mend& m) { m.guides.push_back(line); });
}

void MendWork::setMuted(bool muted) {
    const auto chosen = m_document.chosenMends();
    m_work.edit(muted ? tr("mute") : tr("unmute"), [&](Frame& f, Id&) {
        bool any = false;
        for (auto& m : f.mends)
            if (std::find(chosen.begin(), chosen.end(), m.id) != chosen.end() && m.muted != muted)
                m.muted = muted, any = true;
        return any;
    });
}

void MendWork::setGroup(const QString& name) {
    const auto chosen = m_document.chosenMends();
    m_work.edit(tr("group"), [&](Frame& f, Id&) {
        for (auto& m : f.mends)
            if (std::find(chosen.begin(), chosen.end(), m.id) != chosen.end())
                m.group = name.toStdString();
        return !chosen.empty();
    });
}

void MendWork::reorder(int by) {
    const auto* selected = m_document.selectedMend();
    if (!selected) return;
    const Id id = selected->id;
    m_work.edit(by < 0 ? tr("lay earlier") : tr("lay later"), [&](Frame& f, Id&) {
        for (size_t i = 0; i < f.mends.size(); ++i) {
            if (f.mends[i].id != id) continue;
            const auto to = long(i) + by;
            if (to < 0 || to >= long(f.mends.size())) return false;
            std::swap(f.mends[i], f.mends[size_t(to)]);
            return true;
        }
        return false;
    });
}

void MendWork::split() {
    const auto* selected = m_document.selectedMend();
    if (!selected) return;
    const auto parts = mend::splitByMaterial(m_pictures.original(), selected->mend.region);
    if (!parts) return;
    m_work.edit(tr("split at the boundary"), [&](Frame& f, Id& next) {
        for (size_t i = 0; i < f.mends.size(); ++i) {
            if (f.mends[i].id != selected->id) continue;
            auto second = f.mends[i];
            f.mends[i].mend.region = parts->first;
            second.id = next++;
            second.finding = 0;
            second.mend.region = parts->second;
            f.mends.insert(f.mends.begin() + long(i) + 1, std::move(second));
            return true;
        }
        return false;
    });
}

void MendWork::growOverLeft() {
    const Region left = m_report.left;
    if (!left.empty()) reshape(left, false);
}

void MendWork::mendRest() {
    const auto rest = m_report.remnant;
    const auto frame = m_document.current();
    if (rest.empty() || !frame) return;
    m_work.edit(tr("mend the rest"), [&](Frame& f, Id& next) {
        for (const auto& r : rest) {
            mend::Mend m;
            m.region = grown(r.region, 2, f.geometry.stored);
            m.method = mend::methodFor(m.region);
            f.mends.push_back({next++, std::move(m), 0, false, {}});
        }
        return true;
    });
}

void MendWork::duplicate() {
    const auto frame = m_document.current();
    const auto chosen = m_document.chosenMends();
    if (!frame || chosen.empty()) return;
    series::Series next = *m_document.now();
    int frames = 0;
    for (const auto& other : m_document.now()->frames) {
        if (other->id == frame->id || !m_document.ticked(other->id) ||
            other->geometry.stored != frame->geometry.stored)
            continue;
        Frame changed = *other;
        for (const Id id : chosen) {
            auto copy = *frame->mend(id);
            copy.id = next.nextId++;
            copy.finding = 0;
            changed.mends.push_back(std::move(copy));
        }
        next = next.with(std::move(changed));
        ++frames;
    }
    if (frames) m_document.commit(std::move(next), tr("duplicate"));
    emit m_work.told(frames ? tr("Copied to %1 of the ticked frames").arg(frames)
                            : tr("No other ticked frame has the same size"));
}

void MendWork::look() {
    if (!m_pictures.settled()) return m_calm.start();
    m_stop.request_stop();
    const auto* m = m_document.selectedMend();
    const auto frame = m_document.current();
    const auto it = m ? m_pictures.patches().find(m->id) : m_pictures.patches().end();
    if (!m || !frame || m->muted || it == m_pictures.patches().end() || !m_pictures.areOf(*frame)) {
        m_report = {};
        m_looked = nullptr;
        emit reported();
        return;
    }
    drawCandidates();
    if (it->second == m_looked && m_report.mend == m->id) return;
    m_report = {};
    m_looked = it->second;
    const auto patch = it->second;
    const auto entry = *m;
    const auto plan = m_document.now()->plan;
    const Image original = m_pictures.original();
    const auto composed = m_pictures.composed();
    m_stop = m_jobs.run(
        {}, this,
        [=, bits = m_pictures.bits()](std::stop_token stop, const Progress&) {
            Report r;
            r.mend = entry.id;
            const auto& mend = entry.mend;
            const Rect near = mend::checkBox(mend, composed.size());
            r.checks =
                mend::checked({composed.part(near), near.tl(), composed.size()}, mend, *patch);
            if (!mend::keepsPicture(mend.method)) {
                r.left = mend::leftOutside(original, mend.region);
                r.twoMaterials = mend::splitByMaterial(original, mend.region).has_value();
            }
            if (auto rest = render::remnants(composed, bits, *frame, entry, plan, stop))
                r.remnant = std::move(*rest);
            return r;
        },
        [this, patch](Report r) {
            if (m_looked != patch) return;
            m_report = std::move(r);
            emit reported();
        });
}

namespace {

/// The frames that may show the same scene, the likeliest first.
std::vector<series::FramePtr> neighbours(const series::Series& s, const Frame& frame) {
    constexpr int kFarthest = 3;
    std::vector<series::FramePtr> out;
    for (const auto& f : series::setOf(s, frame))
        if (f->id != frame.id) out.push_back(f);
    const int at = s.indexOf(frame.id);
    for (int by = 1; by <= kFarthest; ++by)
        for (const int i : {at + by, at - by})
            if (i >= 0 && i < int(s.frames.size()) &&
                std::find(out.begin(), out.end(), s.frames[size_t(i)]) == out.end())
                out.push_back(s.frames[size_t(i)]);
    return out;
}

}  // namespace

void MendWork::lendFromAnotherFrame() {
    const auto* m = m_document.selectedMend();
    const auto frame = m_document.current();
    if (!m || !frame || !m_pictures.areOf(*frame)) return;
    const auto s = m_document.now();
    m_jobs.run(
        tr("Looking in other frames"), this,
        [=, mend = m->mend, original = m_pictures.original()](
            std::stop_token stop, const Progress& progress) -> Result<mend::Mend> {
            const auto frames = neighbours(*s, *frame);
            Result<mend::Mend> out =
                fail(Error::Kind::BadSetting, "there is no other frame near by");
            for (size_t i = 0; i < frames.size() && !out; ++i) {
                if (stop.stop_requested()) return cancelled();
                progress(double(i) / double(frames.size()));
                const auto pixels = render::originalPixels(*frames[i], stop);
                if (pixels)
                    out = render::lentFrom(mend, original, *frames[i], *pixels, s->plan.line);
            }
            return out;
        },
        [this, frame, id = m->id](Result<mend::Mend> made) {
            if (!made) {
                if (made.error().kind != Error::Kind::Cancelled)
                    emit m_work.told(tr("No other frame near by can lend this place: %1")
                                         .arg(QString::fromStdString(made.error().what)));
                return;
            }
            const auto current = m_document.current();
            if (!current || current->id != frame->id) return;
            const auto from = QString::fromStdString(made->lent->frame);
            m_work.edit(tr("take it from %1").arg(from), [&](Frame& f, Id&) {
                for (auto& e : f.mends)
                    if (e.id == id) return e.mend = std::move(*made), true;
                return false;
            });
            emit m_work.told(tr("Taken from %1").arg(from));
        });
}

void MendWork::another() {
    const auto* m = m_document.selectedMend();
    const auto frame = m_document.current();
    if (!m || !frame || !m_pictures.areOf(*frame)) return;
    std::vector<render::PatchPtr> others;
    for (const auto& other : frame->mends)
        if (const auto it = m_pictures.patches().find(other.id);
            it != m_pictures.patches().end() && other.id != m->id && !other.muted)
            others.push_back(it->second);
    m_jobs.run(
        tr("Another result"), this,
        [mend = m->mend, id = m->id, frame, line = m_document.line(),
         picture = render::Composition(m_pictures.original(), std::move(others))](
            std::stop_token stop, const Progress&) {
            const auto [laid, avoid] = series::Avoided(*frame, line).laid(id, mend);
            auto next = render::anotherResult(picture, avoid, laid, stop);
            next.region = mend.region;
            next.within = {};
            return stop.stop_requested() ? std::nullopt : std::optional(std::move(next));
        },
        [this, id = m->id, frameId = frame->id,
         was = mend::contentKey(m->mend)](std::optional<mend::Mend> next) {
            const auto now = m_document.current();
            if (!next || !now || now->id != frameId) return;
            m_work.edit(tr("another result"), [&](Frame& f, Id&) {
                for (auto& e : f.mends)
                    if (e.id == id && mend::contentKey(e.mend) == was)
                        return e.mend = std::move(*next), true;
                return false;
            });
        });
}

/// The selected Rebuild, less which of its results is chosen. 0 = none is selected.
std::uint64_t MendWork::choice() const {
    const auto* m = m_document.selectedMend();
    if (!m || m->muted || m->mend.method != mend::Method::Rebuild) return 0;
    auto mend = m->mend;
    mend.candidate = 0;
    return mend::hashBytes(&m->id, sizeof m->id, mend::contentKey(mend));
}

void MendWork::dropCandidates() {
    m_drawStop.request_stop();
    m_candidatesOf = 0;
    m_candidates.clear();
    emit candidatesDrawn();
}

void MendWork::drawCandidates() {
    constexpr int kCount = 4;
    const auto key = choice();
    if (!key || key == m_candidatesOf) return;
    m_candidatesOf = key;
    const auto take = [this, key](const QImage& drawn) {
        if (m_candidatesOf != key) return;
        m_candidates.push_back(drawn);
        emit candidatesDrawn();
    };
    // The composer reads `made`, which has to live as long.
    m_drawStop = m_jobs.run(
        {}, this,
        [=, made = m_pictures.made(), composer = m_pictures.composer(),
         original = m_pictures.original(), composed = m_pictures.composed(),
         m = *m_document.selectedMend(), frame = *m_document.current(), line = m_document.line(),
         jobs = &m_jobs,
         self = QPointer<QObject>(this)](std::stop_token stop, const Progress&) mutable {
            const Rect box = grown(m.mend.region.box, 8, original.size());
            for (int i = 0; i < kCount; ++i) {
                for (auto& other : frame.mends)
                    if (other.id == m.id) other.mend.candidate = i;
                const auto patch = composer->trial(original, frame, line, m.id, stop);
                if (!patch) return false;
                Image crop = composed.part(box).clone();
                mend::lay(**patch, crop, box.tl());
                const QImage drawn =
                    toQImage(narrow(asColour(crop)))
                        .scaled(64, 64, Qt::KeepAspectRatio, Qt::SmoothTransformation);
                jobs->post(self, [take, drawn] { take(drawn); });
            }
            return true;
        },
        [](bool) {});
}

}  // namespace gq::desk
