#include "desk/document/work.h"

#include <array>
#include <opencv2/core.hpp>

#include "core/carry/chart.h"
#include "core/carry/confirm.h"
#include "core/carry/roll_lines.h"
#include "core/pixels/color.h"
#include "core/render/export.h"
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

constexpr size_t kTogether = 3;  ///< frames that can say something together

/// A search of a whole sensor series ends with what its frames say together. Works on `next`.
void confirmBySeries(series::Series& next, const std::vector<std::string>& frames,
                     const carry::Consensus& consensus, const Progress& progress,
                     std::stop_token stop) {
    const auto chart = consensus.chart();
    if (!chart) return;  // too few frames of one camera to say anything
    for (size_t i = 0; i < frames.size() && !stop.stop_requested(); ++i) {
        progress(0.7 + 0.3 * double(i) / double(frames.size()));
        const auto frame = next.frame(frames[i]);
        if (!frame) continue;
        const auto loaded = render::openOriginal(*frame, false, stop);
        if (!loaded) continue;  // named by the search itself
        next =
            next.with(carry::confirmed(*frame, loaded->picture.pixels, *chart, next.nextId, stop));
    }
}

}  // namespace

void Work::findOn(const std::vector<std::string>& frames) {
    struct Outcome {
        series::Series next;
        std::vector<Error> faults;
        std::vector<QString> notes;
        bool stopped = false, any = false;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Finding"), this,
        [=](std::stop_token stop, const Progress& progress) {
            Outcome out{*series, {}, {}, false, false};
            const bool together =
                series->plan.origin == find::Origin::Sensor && frames.size() >= kTogether;
            const double all = together ? 0.7 : 1.0;
            carry::Consensus consensus;
            for (size_t i = 0; i < frames.size() && !stop.stop_requested(); ++i) {
                const auto frame = series->frame(frames[i]);
                const auto part = [&](double share) {
                    progress(all * (double(i) + share) / double(frames.size()));
                };
                const auto loaded = render::openOriginal(*frame, false, stop);
                part(0.3);
                auto found = loaded ? render::search(
                                          *loaded, *frame, series->plan,
                                          [&](double s) { part(0.3 + 0.5 * s); }, stop)
                                    : Result<render::Searched>(tl::unexpected(loaded.error()));
                if (!found) {
                    if (found.error().kind != Error::Kind::Cancelled)
                        out.faults.push_back(found.error());
                    continue;
                }
                out.any = true;
                for (const auto& note : found->notes)
                    out.notes.push_back(tr("%1: %2").arg(text(frame->name()), text(note)));
                // A frame of another camera has its own dust; the chart goes without it.
                if (together) (void)consensus.add(loaded->picture.pixels, *frame, stop);
                out.next = out.next.with(
                    series::withFindings(*frame, std::move(found->findings), out.next.nextId));
            }
            if (together) confirmBySeries(out.next, frames, consensus, progress, stop);
            if (find::isFilm(series->plan.origin) && frames.size() >= kTogether)
                out.next = carry::withRollLines(out.next, frames, render::originalPixels, stop);
            out.stopped = stop.stop_requested();
            return out;
        },
        [this, series, frames](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            for (const auto& note : out.notes) emit told(note);
            if (out.stopped || !out.any) return;
            // What was edited meanwhile stays: only the searched frames' findings are taken over.
            series::Series next = *m_document.now();
            for (const auto& id : frames) {
                const auto frame = next.frame(id), searched = out.next.frame(id);
                if (!frame || !searched || searched == series->frame(id)) continue;
                if (frame == series->frame(id)) {
                    next = next.with(*searched);
                } else {
                    std::vector<find::Finding> found;
                    for (const auto& f : searched->findings) found.push_back(f.finding);
                    next = next.with(series::withFindings(*frame, std::move(found), next.nextId));
                }
            }
            next.nextId = std::max(next.nextId, out.next.nextId);
            m_document.commit(std::move(next), tr("find"));
        });
}

void Work::setLine(float line) {
    series::Series next = *m_document.now();
    if (next.plan.line == line) return;
    next.plan.line = line;
    m_document.commit(std::move(next), tr("move the line"));
}

void Work::setPlan(const find::FindPlan& plan, const find::Sight& sight, bool skipUnseen) {
    series::Series next = *m_document.now();
    next.plan = plan;
    next.sight = sight;
    next.skipUnseen = skipUnseen;
    m_document.commit(std::move(next), tr("change what is searched for"));
}

void Work::setInversion(const std::optional<film::Inversion>& inversion) {
    edit(inversion ? tr("invert the negative") : tr("show as scanned"), [&](Frame& f, Id&) {
        f.inversion = inversion;
        return true;
    });
}

void Work::previewInversion(const film::Inversion& inversion) {
    const auto current = m_document.current();
    if (!current) return;
    Frame changed = *current;
    changed.inversion = inversion;
    m_document.amend(m_document.now()->with(std::move(changed)));
}

void Work::pickBase(const Image& original, PointF at) {
    const Rect box = Rect(int(at.x) - 7, int(at.y) - 7, 15, 15) & Rect({0, 0}, original.size());
    if (box.empty()) return;
    std::array<float, 3> base{};
    for (int c = 0; c < 3; ++c) {
        const cv::Scalar mean = cv::mean(original(box));
        base[size_t(c)] = toLinear(ushort(mean[original.channels() == 3 ? c : 0]));
    }
    setInversion(film::fitted(original, base));
}

void Work::findBases(const std::vector<std::string>& frames) {
    struct Outcome {
        std::vector<std::pair<std::string, film::Inversion>> found;
        std::vector<QString> notes;
        std::vector<Error> faults;
        bool stopped = false;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Finding the film base"), this,
        [=](std::stop_token stop, const Progress& progress) {
            Outcome out;
            for (size_t i = 0; i < frames.size() && !stop.stop_requested(); ++i) {
                progress(double(i) / double(frames.size()));
                const auto frame = series->frame(frames[i]);
                const auto loaded = render::openOriginal(*frame, false, stop);
                if (!loaded) {
                    out.faults.push_back(loaded.error());
                    continue;
                }
                const auto& pixels = loaded->picture.pixels;
                if (const auto base = film::findBase(pixels))
                    out.found.emplace_back(frame->id, film::fitted(pixels, *base));
                else
                    out.notes.push_back(
                        tr("%1: no bare film around the picture. Pick the film base "
                           "with a click on it.")
                            .arg(text(frame->name())));
            }
            out.stopped = stop.stop_requested();
            return out;
        },
        [this](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            for (const auto& note : out.notes) emit told(note);
            if (out.stopped || out.found.empty()) return;
            series::Series next = *m_document.now();
            for (const auto& [id, inversion] : out.found)
                if (const auto frame = next.frame(id)) {
                    Frame changed = *frame;
                    changed.inversion = inversion;
                    next = next.with(std::move(changed));
                }
            m_document.commit(std::move(next), tr("invert the negatives"));
        });
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

void Work::erase() {
    const auto chosen = m_document.chosenMends();
    edit(tr("delete the mend"), [&](Frame& f, Id&) {
        for (const Id id : chosen) {
            std::erase_if(f.mends, [&](const auto& e) { return e.id == id; });
            for (auto& c : f.carried)
                if (c.mend == id) c.mend = 0, c.verdict = series::Verdict::NotVisible;
        }
        return !chosen.empty();
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
        m->mend.lent.reset();
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
    m->mend.lent.reset();
    m->mend.source = Point(std::clamp(offset.x, -box.x, s.width - box.br().x),
                           std::clamp(offset.y, -box.y, s.height - box.br().y));
    m_pictures.preview(done ? nullptr : frame);
    if (done) edit(tr("drag the source"), [&](Frame& f, Id&) { return f = *frame, true; });
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
