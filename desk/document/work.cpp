#include "desk/document/work.h"

#include <array>

#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "core/render/search.h"
#include "desk/look/convert.h"

namespace gq::desk {
using series::Frame;
using series::Id;

Work::Work(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_pictures(pictures), m_jobs(jobs) {
    qRegisterMetaType<gq::Error>();
}

namespace {

struct Found {
    std::string frame;
    render::Searched searched;
};

}  // namespace

void Work::findOn(const std::vector<std::string>& frames) {
    struct Outcome {
        std::vector<Found> found;
        std::vector<Error> faults;
        bool stopped = false;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Finding"), this,
        [=](std::stop_token stop, const Progress& progress) {
            Outcome out;
            for (size_t i = 0; i < frames.size() && !stop.stop_requested(); ++i) {
                const auto frame = series->frame(frames[i]);
                const auto part = [&](double share) {
                    progress((double(i) + share) / double(frames.size()));
                };
                const auto loaded = render::openOriginal(*frame, false, stop);
                part(0.3);
                auto found =
                    loaded ? render::search(*loaded, *frame, series->plan,
                                            [&](double s) { part(0.3 + 0.7 * s); }, stop)
                           : Result<render::Searched>(tl::unexpected(loaded.error()));
                if (found)
                    out.found.push_back({frames[i], std::move(*found)});
                else if (found.error().kind != Error::Kind::Cancelled)
                    out.faults.push_back(found.error());
            }
            out.stopped = stop.stop_requested();
            return out;
        },
        [this](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (out.stopped || out.found.empty()) return;
            series::Series next = *m_document.now();
            for (auto& f : out.found)
                if (const auto frame = next.frame(f.frame)) {
                    for (const auto& note : f.searched.notes)
                        emit told(tr("%1: %2").arg(text(frame->name()), text(note)));
                    next =
                        next.with(series::withFindings(*frame, std::move(f.searched.findings), next.nextId));
                }
            m_document.commit(std::move(next), tr("find"));
        });
}

void Work::setLine(float line) {
    series::Series next = *m_document.now();
    if (next.plan.line == line) return;
    next.plan.line = line;
    m_document.commit(std::move(next), tr("move the line"));
}

void Work::setStrength(float strength) {
    series::Series next = *m_document.now();
    if (next.plan.strength == strength) return;
    next.plan.strength = strength;
    m_document.commit(std::move(next), tr("change the strength"));
}

void Work::setOrigin(find::Origin origin) {
    series::Series next = *m_document.now();
    if (next.plan.origin == origin) return;
    next.plan.origin = origin;
    m_document.commit(std::move(next), tr("change the origin"));
}

void Work::setReference(const std::string& frame) {
    series::Series next = *m_document.now();
    if (next.reference == frame) return;
    next.reference = frame;
    m_document.commit(std::move(next), tr("choose the reference"));
}

void Work::edit(const QString& what, const Edit& change) {
    if (const auto current = m_document.current()) editFrame(current->id, what, change);
}

void Work::editFrame(const std::string& id, const QString& what, const Edit& change) {
    series::Series next = *m_document.now();
    const auto old = next.frame(id);
    if (!old) return;
    Frame frame = *old;
    if (!change(frame, next.nextId)) return;
    next = next.with(std::move(frame));
    m_document.commit(std::move(next), what);
}

void Work::mend(const std::vector<Id>& findings) {
    const auto frame = m_document.current();
    if (findings.empty() || !frame || !m_pictures.frame() || m_pictures.frame()->id != frame->id)
        return;
    struct Outcome {
        Frame frame;
        Id next;
    };
    const Image pixels = m_pictures.original();
    m_jobs.run(
        {}, this,
        [=, next = m_document.now()->nextId](std::stop_token, const Progress&) {
            Outcome out{*frame, next};
            out.frame = render::withMends(pixels, *frame, findings, out.next);
            return out;
        },
        [this, frame](Outcome out) {
            series::Series next = *m_document.now();
            const auto now = next.frame(frame->id);
            if (!now) return;
            Frame merged = *now;  // the fitted mends join what the frame has by now
            for (auto& m : out.frame.mends)
                if (m.finding && !merged.mendOf(m.finding) && merged.finding(m.finding))
                    merged.mends.push_back({next.nextId++, std::move(m.mend), m.finding, false});
            next = next.with(std::move(merged));
            m_document.commit(std::move(next), tr("mend"));
        });
}

void Work::mendAllAbove() {
    if (const auto f = m_document.current())
        mend(render::openAbove(*f, m_document.now()->plan.line));
}

void Work::leave(Id finding) {
    edit(tr("leave"), [&](Frame& f, Id&) {
        for (auto& e : f.findings)
            if (e.id == finding && !f.mendOf(finding)) {
                e.left = !e.left;
                return true;
            }
        return false;
    });
}

void Work::leaveAllAbove() {
    edit(tr("leave all"), [&](Frame& f, Id&) {
        const auto open = render::openAbove(f, m_document.now()->plan.line);
        for (auto& e : f.findings)
            if (std::find(open.begin(), open.end(), e.id) != open.end()) e.left = true;
        return !open.empty();
    });
}

void Work::touch(const Region& region, float softness) {
    if (region.empty()) return;
    Id made = 0;
    edit(tr("touch"), [&](Frame& f, Id& next) {
        mend::Mend m;
        m.region = region;
        m.softness = softness;
        made = next++;
        f.mends.push_back({made, std::move(m), 0, false});
        return true;
    });
    m_document.select(made);
}

void Work::erase(Id entry) {
    edit(tr("delete the mend"), [&](Frame& f, Id&) {
        const auto* m = f.mend(entry) ? f.mend(entry) : f.mendOf(entry);
        if (!m) return false;
        const Id id = m->id;
        std::erase_if(f.mends, [&](const auto& e) { return e.id == id; });
        for (auto& c : f.carried)
            if (c.mend == id) c.mend = 0, c.verdict = series::Verdict::NotVisible;
        return true;
    });
}

namespace {

series::MendEntry* mutableMend(Frame& f, Id entry) {
    for (auto& m : f.mends)
        if (m.id == entry || (m.finding && m.finding == entry)) return &m;
    return nullptr;
}

}  // namespace

void Work::another(Id entry) {
    edit(tr("another result"), [&](Frame& f, Id&) {
        auto* m = mutableMend(f, entry);
        if (!m) return false;
        m->mend.source.reset();
        ++m->mend.candidate;
        return true;
    });
}

void Work::setSource(Id entry, Point offset, bool done) {
    const auto current = m_document.current();
    if (!current) return;
    auto frame = std::make_shared<Frame>(*current);
    auto* m = mutableMend(*frame, entry);
    if (!m) return;
    const Rect box = mend::footprint(m->mend, frame->geometry.stored).box;
    const Size s = frame->geometry.stored;
    m->mend.source = Point(std::clamp(offset.x, -box.x, s.width - box.br().x),
                           std::clamp(offset.y, -box.y, s.height - box.br().y));
    m_pictures.preview(done ? nullptr : frame);
    if (done) edit(tr("drag the source"), [&](Frame& f, Id&) { return f = *frame, true; });
}

void Work::setSoftness(Id entry, float softness) {
    edit(tr("change the softness"), [&](Frame& f, Id&) {
        auto* m = mutableMend(f, entry);
        if (!m || m->mend.softness == softness) return false;
        m->mend.softness = softness;
        return true;
    });
}

void Work::accept(const std::string& id, Id fromMend) {
    editFrame(id, tr("accept"), [&](Frame& f, Id&) {
        for (auto& c : f.carried)
            if (c.fromMend == fromMend && c.mend) {
                c.verdict = series::Verdict::Mended;
                if (auto* m = mutableMend(f, c.mend)) m->muted = false;
            }
        return true;
    });
}

void Work::drop(const std::string& id, Id fromMend) {
    editFrame(id, tr("leave alone"), [&](Frame& f, Id&) {
        for (auto& c : f.carried)
            if (c.fromMend == fromMend && c.mend) {
                std::erase_if(f.mends, [&](const auto& m) { return m.id == c.mend; });
                c.mend = 0;
                c.verdict = series::Verdict::NotVisible;
            }
        return true;
    });
}

void Work::carry(const carry::CarryPlan& plan) {
    struct Outcome {
        Result<series::Series> series;
        std::vector<Error> faults;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Carrying"), this,
        [=](std::stop_token stop, const Progress& progress) {
            Outcome out{cancelled(), {}};
            const auto pixels = [](const Frame& f, std::stop_token s) -> Result<Image> {
                auto loaded = render::openOriginal(f, false, s);
                if (!loaded) return tl::unexpected(loaded.error());
                return loaded->picture.pixels;
            };
            out.series = carry::carryAll(*series, plan, pixels, out.faults, progress, stop);
            return out;
        },
        [this, series, plan](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (!out.series) {
                if (out.series.error().kind != Error::Kind::Cancelled)
                    emit m_document.failed(out.series.error());
                return;
            }
            series::Series next =
                *m_document.now();  // only the targets change, whatever else was edited meanwhile
            std::array<int, 3> count{};
            for (const auto& id : plan.targets) {
                const auto frame = out.series->frame(id);
                if (!frame || frame == series->frame(id)) continue;
                next = next.with(*frame);
                for (const auto& c : frame->carried)
                    if (c.fromFrame == plan.reference) ++count[size_t(c.verdict)];
            }
            next.nextId = std::max(next.nextId, out.series->nextId);
            m_document.commit(std::move(next), tr("carry"));
            emit carriedOver(count[0], count[1], count[2]);
        });
}

void Work::setDelivery(size_t i, Delivery::State state, const QString& note) {
    m_queue[i].state = state;
    m_queue[i].note = note;
    emit queueChanged();
}

void Work::deliver(const std::vector<std::string>& frames, const std::filesystem::path& folder,
                   const files::WriteOptions& options) {
    if (m_jobs.busy()) return;
    const auto series = m_document.now();
    m_queue.clear();
    for (const auto& id : frames)
        m_queue.push_back(
            {id,
             text(render::exportPath(*series->frame(id), folder, options.format).string()),
             {},
             Delivery::State::Waiting});
    emit queueChanged();
    m_jobs.run(
        tr("Delivering"), this,
        [=, this](std::stop_token stop, const Progress& progress) -> Status {
            std::error_code code;
            std::filesystem::create_directories(folder, code);
            for (size_t i = 0; i < frames.size(); ++i) {
                const auto tell = [this, i](Delivery::State s, const QString& note) {
                    QMetaObject::invokeMethod(
                        this, [=, this] { setDelivery(i, s, note); }, Qt::QueuedConnection);
                };
                if (stop.stop_requested()) {
                    tell(Delivery::State::Stopped, tr("stopped"));
                    continue;
                }
                tell(Delivery::State::Writing, {});
                const auto frame = series->frame(frames[i]);
                const auto done = render::exportFrame(
                    *frame, series->plan.line, render::exportPath(*frame, folder, options.format),
                    options, stop);
                if (done)
                    tell(Delivery::State::Done, {});
                else if (done.error().kind == Error::Kind::Cancelled)
                    tell(Delivery::State::Stopped, tr("stopped"));
                else
                    tell(Delivery::State::Failed,
                         text(done.error().what + ". " + done.error().remedy));
                progress(double(i + 1) / double(frames.size()));
            }
            return {};
        },
        [](Status) {});
}

}  // namespace gq::desk
