#include <array>

#include "core/carry/chart_file.h"
#include "core/carry/chart_match.h"
#include "core/files/safe_write.h"
#include "core/render/export.h"
#include "desk/document/work.h"
#include "desk/look/convert.h"

// What Work does for the Carry stage.
namespace gq::desk {
using series::Frame;
using series::Id;

namespace {

/// The series with `change` made to what was carried to the cells.
template <class Change>
series::Series judged(series::Series next, const std::vector<Work::Cell>& cells, Change change) {
    for (const auto& cell : cells) {
        const auto old = next.frame(cell.frame);
        if (!old) continue;
        Frame frame = *old;
        for (auto& c : frame.carried)
            if (c.fromMend == cell.fromMend && c.mend) change(frame, c);
        next = next.with(std::move(frame));
    }
    return next;
}

}  // namespace

void Work::accept(const std::vector<Cell>& cells) {
    m_document.commit(judged(*m_document.now(), cells,
                             [](Frame& f, series::CarriedEntry& c) {
                                 c.verdict = series::Verdict::Mended;
                                 for (auto& m : f.mends)
                                     if (m.id == c.mend) m.muted = false;
                             }),
                      tr("accept"));
}

void Work::drop(const std::vector<Cell>& cells) {
    m_document.commit(judged(*m_document.now(), cells,
                             [](Frame& f, series::CarriedEntry& c) {
                                 std::erase_if(f.mends,
                                               [&](const auto& m) { return m.id == c.mend; });
                                 c.mend = 0;
                                 c.verdict = series::Verdict::NotVisible;
                             }),
                      tr("leave alone"));
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
            out.series =
                carry::carryAll(*series, plan, render::originalPixels, out.faults, progress, stop);
            return out;
        },
        [this, series, plan](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (!out.series) {
                if (out.series.error().kind != Error::Kind::Cancelled)
                    emit m_document.failed(out.series.error());
                return;
            }
            auto frames = plan.targets;
            frames.push_back(plan.reference);  // its sources may have been pinned
            takeCarried(series, *out.series, frames, plan.reference);
        });
}

void Work::takeCarried(const series::SeriesPtr& before, const series::Series& after,
                       const std::vector<std::string>& frames, const std::string& from) {
    series::Series next = *m_document.now();
    std::array<int, 3> count{};
    for (const auto& id : frames) {
        const auto frame = after.frame(id);
        if (!frame || frame == before->frame(id)) continue;
        if (next.frame(id) != before->frame(id)) {
            emit told(tr("%1 was edited meanwhile and was left as it is. Carry again.")
                          .arg(text(frame->name())));
            continue;
        }
        next = next.with(*frame);
        for (const auto& c : frame->carried)
            if (c.fromFrame == from) ++count[size_t(c.verdict)];
    }
    next.nextId = std::max(next.nextId, after.nextId);
    m_document.commit(std::move(next), tr("carry"));
    emit carriedOver(count[0], count[1], count[2]);
}

void Work::saveChart(const std::filesystem::path& file) {
    const auto series = m_document.now();
    m_jobs.run(
        tr("Making the dust chart"), this,
        [=](std::stop_token stop, const Progress& progress) -> Status {
            const auto reference = series->frame(series->reference);
            auto chart = carry::chartOf(*reference, series->frames, render::chartPixels(*reference),
                                        partOf(progress, 0, 0.4), stop);
            if (!chart) return tl::unexpected(chart.error());
            *chart = carry::edited(std::move(*chart), *reference);
            std::vector<series::FramePtr> frames;
            for (const auto& f : series->frames)
                if (carry::refusal(*reference, *f).empty()) frames.push_back(f);
            chart = carry::withShadows(std::move(*chart), frames, render::originalPixels,
                                       partOf(progress, 0.4, 1), stop);
            if (!chart) return tl::unexpected(chart.error());
            return files::writeTextSafely(file, carry::chartText(*chart));
        },
        [this, file](Status done) {
            if (done)
                emit told(tr("The dust chart was written to %1").arg(text(file.string())));
            else if (done.error().kind != Error::Kind::Cancelled)
                emit m_document.failed(done.error());
        });
}

void Work::carryChart(const std::filesystem::path& file, const std::vector<std::string>& frames) {
    struct Outcome {
        Result<series::Series> series;
        std::string match;
        std::vector<Error> faults;
    };
    const auto series = m_document.now();
    m_jobs.run(
        tr("Carrying the chart"), this,
        [=](std::stop_token stop, const Progress& progress) {
            Outcome out{cancelled(), {}, {}};
            auto known = carry::loadChart(file);
            if (!known) {
                out.series = tl::unexpected(known.error());
                return out;
            }
            const auto small = render::chartPixels(carry::asReference(*known));
            auto chart =
                carry::broughtUpToDate(std::move(*known), series->frames, small,
                                       render::originalPixels, partOf(progress, 0, 0.4), stop);
            if (!chart) {
                chart.error().file = file.string();
                out.series = tl::unexpected(chart.error());
                return out;
            }
            if (chart->match) out.match = carry::words(*chart->match);
            progress(0.4);
            series::Series next = *series;
            const auto from = carry::asReference(chart->chart, next.nextId);
            const auto shadows = carry::shadowsOf(chart->chart, next.nextId);
            next.nextId += from.mends.size();
            out.series =
                carry::carryFrom(from, shadows, next, {from.id, {}, frames}, render::originalPixels,
                                 out.faults, partOf(progress, 0.4, 1), stop);
            return out;
        },
        [this, series, frames](Outcome out) {
            for (const auto& f : out.faults) emit m_document.failed(f);
            if (out.series)
                takeCarried(series, *out.series, frames, carry::kChartFrame);
            else if (out.series.error().kind != Error::Kind::Cancelled)
                emit m_document.failed(out.series.error());
            if (out.series && !out.match.empty())
                emit told(tr("The chart beside this series: %1").arg(text(out.match)));
        });
}

void Work::setPurpose(const std::vector<std::string>& frames, series::Purpose purpose) {
    if (frames.empty()) return;
    m_document.commit(series::withSet(*m_document.now(), frames, purpose),
                      purpose == series::Purpose::Alone ? tr("frames on their own")
                                                        : text(series::word(purpose)));
}

void Work::setCut(const std::vector<std::string>& frames, const Frame& like,
                  const std::optional<carry::Cut>& cut) {
    series::Series next = *m_document.now();
    for (const auto& id : frames) {
        const auto f = next.frame(id);
        if (!f || f->geometry.stored != like.geometry.stored) continue;
        auto placed = carry::asCut(*f, cut);
        if (!placed) {
            emit m_document.failed(placed.error());
            return;
        }
        next = next.with(std::move(*placed));
    }
    m_document.commit(std::move(next), tr("cut or turned"));
}

}  // namespace gq::desk
