#include "desk/document/work.h"

#include <array>
#include <opencv2/core.hpp>

#include "core/files/folder_scan.h"
#include "core/files/safe_write.h"
#include "core/film/film_base.h"
#include "core/pixels/color.h"
#include "core/render/export.h"
#include "core/render/kept_charts.h"
#include "core/render/search_series.h"
#include "desk/look/convert.h"

namespace gq::desk {
using series::Frame;
using series::Id;

Work::Work(DeskDocument& document, Pictures& pictures, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_pictures(pictures), m_jobs(jobs) {
    qRegisterMetaType<gq::Error>();
    connect(&document, &DeskDocument::opened, this, [this] {  // what was delivered is another's
        m_queue.clear();
        emit queueChanged();
    });
}

void Work::findOn(const std::vector<std::string>& frames) {
    struct Found {
        Result<render::SearchedSeries> searched;
        DeskDocument::Charts charts;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Finding"), this,
        [=, known = m_document.charts(), folder = m_document.folder()](std::stop_token stop,
                                                                       const Progress& progress) {
            Found out{render::searchSeries(*series, frames, render::Untold::OneCamera, progress,
                                           stop, *known),
                      {}};
            if (!out.searched || out.searched->charts.empty()) return out;
            out.charts = render::renewed(*known, out.searched->charts);
            if (auto kept = render::keepCharts(folder, out.charts); !kept)
                out.searched->faults.push_back(kept.error());
            return out;
        },
        [this, series, frames](Found all) {
            const auto& out = all.searched;
            if (!out) return;  // stopped
            if (!all.charts.empty()) m_document.setCharts(std::move(all.charts));
            for (const auto& f : out->faults) emit m_document.failed(f);
            QStringList notes;
            for (const auto& note : out->notes) notes << text(note);
            if (!notes.isEmpty()) emit told(notes.join('\n'));
            if (out->searched.empty()) return;
            // What was edited meanwhile stays: only the searched frames' findings are taken over.
            series::Series next = *m_document.now();
            for (const auto& id : out->searched) {
                const auto frame = next.frame(id), searched = out->series.frame(id);
                if (!frame) continue;
                if (frame == series->frame(id)) {
                    next = next.with(*searched);
                } else {
                    std::vector<find::Finding> found;
                    for (const auto& f : searched->findings) found.push_back(f.finding);
                    next = next.with(series::withFindings(*frame, std::move(found), next.nextId));
                }
            }
            next.nextId = std::max(next.nextId, out->series.nextId);
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
        QStringList notes;
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
                const auto name = text(frame->name());
                const auto base = film::findBase(pixels);
                if (base) out.found.emplace_back(frame->id, film::fitted(pixels, base->light));
                if (!base)
                    out.notes.push_back(tr("%1: too even to be a negative. Pick the film base "
                                           "with a click on it.")
                                            .arg(name));
                else if (!base->bare)
                    out.notes.push_back(tr("%1: no bare film in view, the thinnest places of the "
                                           "picture stand for it. Pick the film base if colours "
                                           "are off.")
                                            .arg(name));
            }
            out.stopped = stop.stop_requested();
            return out;
        },
        [this](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (!out.notes.isEmpty()) emit told(out.notes.join('\n'));
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
                   const render::DeliveryPlan& plan) {
    if (m_jobs.busy()) return;
    const auto series = m_document.now();
    m_queue.clear();
    std::vector<std::filesystem::path> targets;
    for (const auto& id : frames) {
        targets.push_back(render::deliveryPaths(*series->frame(id), folder, plan).front());
        m_queue.push_back({id, text(targets.back().string()), {}, Delivery::State::Waiting});
    }
    const auto firsts = files::firstOfSame(targets);
    emit queueChanged();
    m_jobs.run(
        tr("Delivering"), this,
        [=, this](std::stop_token stop, const Progress& progress) -> Status {
            std::error_code code;
            std::filesystem::create_directories(folder, code);
            const auto tell = [this](int i, Delivery::State s, const QString& note) {
                m_jobs.post(this, [=, this] { setDelivery(size_t(i), s, note); });
            };
            // Two at a time, as decoding and encoding take one core each.
            inOrder(
                int(frames.size()),
                [&](int i) -> Result<std::string> {
                    if (stop.stop_requested()) return cancelled();
                    if (const size_t first = firsts[size_t(i)]; first != size_t(i))
                        return files::targetTaken(targets[first],
                                                  series->frame(frames[first])->file);
                    tell(i, Delivery::State::Writing, {});
                    return render::deliver(*series, *series->frame(frames[size_t(i)]), folder, plan,
                                           stop);
                },
                [&](int i, const Result<std::string>& done) {
                    if (done)
                        tell(i, Delivery::State::Done, text(*done));
                    else if (done.error().kind == Error::Kind::Cancelled)
                        tell(i, Delivery::State::Stopped, tr("stopped"));
                    else
                        tell(i, Delivery::State::Failed,
                             text(done.error().what + ". " + done.error().remedy));
                    progress(double(i + 1) / double(frames.size()));
                });
            return {};
        },
        [](Status) {});
}

}  // namespace gq::desk
