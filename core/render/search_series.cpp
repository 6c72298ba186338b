#include "core/render/search_series.h"

#include <algorithm>

#include "core/carry/confirm.h"
#include "core/carry/roll_lines.h"
#include "core/render/export.h"

namespace gq::render {
namespace {

constexpr double kSearching = 0.7;  ///< share of a frame's work that comes before confirming

/// The steps of one search, which add to one result.
class Searching {
  public:
    Searching(SearchedSeries& out, size_t frames, const Progress& progress, std::stop_token stop)
        : m_out(out), m_frames(double(frames)), m_progress(progress), m_stop(std::move(stop)) {}

    void apart(const std::vector<std::string>& frames) {
        for (const auto& id : frames) search(id, 1, nullptr);
    }

    /// Ends with what the frames say together.
    void sensor(const std::vector<std::string>& frames) {
        carry::Consensus consensus;
        for (const auto& id : frames) search(id, kSearching, &consensus);
        const auto chart = consensus.chart();  // none where too few could be read
        for (const auto& id : frames) {
            if (m_stop.stop_requested()) return;
            if (chart) confirm(id, *chart);
            done(1 - kSearching);
        }
    }

  private:
    void search(const std::string& id, double share, carry::Consensus* consensus) {
        if (m_stop.stop_requested()) return;
        const auto frame = m_out.series.frame(id);
        const auto loaded = openOriginal(*frame, false, m_stop);
        if (!loaded) return fault(loaded.error(), share);
        const auto part = [&](double p) { tell(share * (0.3 + 0.7 * p)); };
        part(0);
        auto found = render::search(*loaded, *frame, m_out.series.plan, part, m_stop);
        if (!found) return fault(found.error(), share);
        for (const auto& note : found->notes) m_out.notes.push_back(frame->name() + ": " + note);
        m_out.searched.push_back(id);
        m_out.series = m_out.series.with(
            series::withFindings(*frame, std::move(found->findings), m_out.series.nextId));
        // Frames of one sensor are not refused; what is left is the wish to stop.
        if (consensus) (void)consensus->add(loaded->picture.pixels, *frame, m_stop);
        done(share);
    }

    void confirm(const std::string& id, const carry::DustChart& chart) {
        const auto frame = m_out.series.frame(id);
        const auto pixels = originalPixels(*frame, m_stop);
        if (!pixels) return;  // named by its search
        m_out.series = m_out.series.with(
            carry::confirmed(*frame, *pixels, chart, m_out.series.nextId, m_stop));
    }

    void fault(const Error& error, double share) {
        if (error.kind != Error::Kind::Cancelled) m_out.faults.push_back(error);
        done(share);
    }
    void done(double share) {
        m_done += share;
        tell(0);
    }
    void tell(double part) const {
        if (m_progress) m_progress((m_done + part) / m_frames);
    }

    SearchedSeries& m_out;
    double m_frames, m_done = 0;
    const Progress& m_progress;
    std::stop_token m_stop;
};

}  // namespace

std::vector<std::vector<std::string>> searchedTogether(const series::Series& series,
                                                       const std::vector<std::string>& frames,
                                                       Untold untold) {
    const auto origin = series.plan.origin;
    if (find::isFilm(origin)) return {frames};
    std::vector<std::vector<std::string>> out;
    for (const auto& id : frames) {
        const auto frame = series.frame(id);
        const bool told = untold == Untold::OneCamera || !frame->camera.empty();
        const auto of = std::find_if(out.begin(), out.end(), [&](const auto& group) {
            const auto first = series.frame(group.front());
            return first->camera == frame->camera && carry::refusal(*first, *frame).empty();
        });
        if (origin == find::Origin::Sensor && told && of != out.end())
            of->push_back(id);
        else
            out.push_back({id});
    }
    return out;
}

Result<SearchedSeries> searchSeries(const series::Series& series,
                                    const std::vector<std::string>& frames, Untold untold,
                                    const Progress& progress, std::stop_token stop) {
    SearchedSeries out{series, {}, {}, {}};
    Searching searching(out, frames.size(), progress, stop);
    for (const auto& group : searchedTogether(series, frames, untold))
        if (series.plan.origin == find::Origin::Sensor && group.size() >= kTogether)
            searching.sensor(group);
        else
            searching.apart(group);
    if (find::isFilm(series.plan.origin) && out.searched.size() >= kTogether)
        out.series = carry::withRollLines(out.series, out.searched, originalPixels, stop);
    if (stop.stop_requested()) return cancelled();
    return out;
}

Result<std::vector<series::FramePtr>> searchedFrames(const series::Series& series,
                                                     std::vector<series::FramePtr> frames,
                                                     Untold untold, const Progress& progress,
                                                     std::stop_token stop) {
    std::vector<std::string> ids;
    for (const auto& f : frames)
        if (!f->searched) ids.push_back(f->id);
    const auto found = searchSeries(series, ids, untold, progress, stop);
    if (!found) return tl::unexpected(found.error());
    if (!found->faults.empty()) return tl::unexpected(found->faults.front());
    for (auto& f : frames) f = found->series.frame(f->id);
    return frames;
}

}  // namespace gq::render
