#include <map>

#include "core/carry/roll_lines.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"
#include "desk/document/work.h"

namespace gq::desk {
using series::Frame;
using series::Id;

void Work::mend(const std::vector<Id>& findings) {
    const auto frame = m_document.current();
    if (!frame) return;
    carry::RollLine parts;
    for (const Id id : findings) parts.push_back({frame->id, id});
    mendParts(parts, {});
}

void Work::mendOne(Id finding) {
    const auto frame = m_document.current();
    if (!frame || !frame->finding(finding)) return;
    const auto parts = carry::rollLineOf(*m_document.now(), frame->id, finding);
    mendParts(parts, parts.size() > 1 ? tr("Mending along the roll") : QString());
}

void Work::mendParts(const carry::RollLine& parts, const QString& name) {
    const auto current = m_document.current();
    if (parts.empty() || !m_pictures.frame() || m_pictures.frame()->id != current->id) return;
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
        [=, series = m_document.now()](std::stop_token stop, const Progress& progress) {
            Outcome out;
            Id next = series->nextId;
            size_t done = 0;
            for (const auto& [id, findings] : byFrame) {
                if (stop.stop_requested()) break;
                const auto frame = series->frame(id);
                const auto pixels =
                    id == current->id ? Result<Image>(shown) : render::originalPixels(*frame, stop);
                if (pixels)
                    out.frames.push_back(render::withMends(*pixels, *frame, findings, next));
                else
                    out.faults.push_back(pixels.error());
                progress(double(++done) / double(byFrame.size()));
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
                for (auto& m : made.mends)
                    if (m.finding && !merged.mendOf(m.finding) && merged.finding(m.finding))
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
        std::erase_if(open, [&](Id id) { return !series::inSight(*s, *f, *f->finding(id)); });
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
        for (auto& e : f.findings)
            if (!f.mendOf(e.id) &&
                std::find(findings.begin(), findings.end(), e.id) != findings.end())
                e.left = any = true;
        return any;
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

}  // namespace gq::desk
