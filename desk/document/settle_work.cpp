#include <map>
#include <set>

#include "core/carry/charted_mends.h"
#include "core/carry/roll_lines.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "core/series/lookup.h"
#include "desk/document/work.h"

namespace gq::desk {
using series::Frame;
using series::Id;

void Work::mend(const std::vector<Id>& findings) {
    const auto frame = m_document.current();
    if (!frame) return;
    carry::RollLine parts;
    for (const Id id : findings) parts.push_back({frame->id, id});
    mendParts(parts, parts.size() > 1 ? tr("Mending") : QString());
}

void Work::mendOne(Id finding) {
    const auto frame = m_document.current();
    if (!frame || !frame->finding(finding)) return;
    const auto parts = carry::rollLineOf(*m_document.now(), frame->id, finding);
    mendParts(parts, parts.size() > 1 ? tr("Mending along the roll") : QString());
}

void Work::mendParts(const carry::RollLine& parts, const QString& name) {
    const auto current = m_document.current();
    if (parts.empty() || !m_pictures.areOf(*current)) return;
    struct Outcome {
        std::vector<Frame> frames;
        std::vector<Error> faults;
        bool stopped = false;
    };
    std::map<std::string, std::vector<Id>> byFrame;
    for (const auto& p : parts) byFrame[p.frame].push_back(p.finding);
    const Image shown = m_pictures.original();
    m_jobs.run(
        name, this,
        [=, made = m_pictures.made(), series = m_document.now(), charts = m_document.charts()](
            std::stop_token stop, const Progress& progress) {
            Outcome out;
            Id next = series->nextId;
            size_t done = 0;
            for (const auto& [id, findings] : byFrame) {
                if (stop.stop_requested()) break;
                const auto frame = series->frame(id);
                const bool here = id == current->id;
                const auto pixels =
                    here ? Result<Image>(shown) : render::originalPixels(*frame, stop);
                auto mended = pixels.and_then([&](const Image& image) {
                    const auto share = double(byFrame.size());
                    const auto part =
                        partOf(progress, double(done) / share, double(done + 1) / share);
                    return render::withMends(image, *frame, findings, series->plan.line, next,
                                             here ? made.get() : nullptr, part, stop);
                });
                ++done;
                if (mended)
                    out.frames.push_back(
                        carry::dividedByChart(*mended, *pixels, *charts, findings));
                else
                    out.faults.push_back(mended.error());
            }
            out.stopped = stop.stop_requested();
            return out;
        },
        [this](Outcome out) {
            if (out.stopped) return;
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (out.frames.empty()) return;
            series::Series next = *m_document.now();
            for (auto& made : out.frames) {
                const auto now = next.frame(made.id);
                if (!now) continue;
                Frame merged = *now;  // the fitted mends join what the frame has by now
                const series::Lookup entries(*now);
                for (auto& m : made.mends)
                    if (entries.finding(m.finding) && !entries.mendOf(m.finding))
                        merged.mends.push_back(
                            {next.nextId++, std::move(m.mend), m.finding, false});
                next = next.with(std::move(merged));
            }
            m_document.commit(std::move(next), tr("mend"));
        });
}

void Work::mendAllAbove() {
    const auto f = m_document.current();
    if (!f) return;
    const auto s = m_document.now();
    auto open = render::openAbove(*f, s->plan.line);
    if (s->skipUnseen)
        std::erase_if(open, [entries = series::Lookup(*f), &s, &f](Id id) {
            return !series::inSight(*s, *f, *entries.finding(id));
        });
    mend(open);
}

void Work::leave(Id finding) {
    const auto frame = m_document.current();
    const auto* entry = frame ? frame->finding(finding) : nullptr;
    if (!entry || frame->mendOf(finding)) return;
    series::Series next = *m_document.now();
    for (const auto& part : carry::rollLineOf(next, frame->id, finding)) {
        Frame changed = *next.frame(part.frame);
        for (auto& e : changed.findings)
            if (e.id == part.finding && !changed.mendOf(e.id)) e.left = !entry->left;
        next = next.with(std::move(changed));
    }
    m_document.commit(std::move(next), tr("leave"));
}

void Work::leaveThese(const std::vector<Id>& findings) {
    edit(tr("leave these"), [&](Frame& f, Id&) {
        bool any = false;
        const series::Lookup entries(f);
        const std::set<Id> these(findings.begin(), findings.end());
        for (auto& e : f.findings)
            if (!entries.mendOf(e.id) && these.contains(e.id)) e.left = any = true;
        return any;
    });
}

void Work::leaveAllAbove() {
    edit(tr("leave all"), [&](Frame& f, Id&) {
        const auto open = render::openAbove(f, m_document.now()->plan.line);
        const std::set<Id> these(open.begin(), open.end());
        for (auto& e : f.findings)
            if (these.contains(e.id)) e.left = true;
        return !open.empty();
    });
}

}  // namespace gq::desk
