#include "core/render/search_series.h"

#include <algorithm>
#include <map>

#include "core/carry/confirm.h"
#include "core/carry/glass_dust.h"
#include "core/carry/roll_lines.h"
#include "core/render/export.h"

namespace gq::render {
namespace {

/// Share of a frame's work that comes before a second look in the light of the others.
constexpr double kSearching = 0.7;
/// Share of it, of a sensor's frames, for how the dust that they agree on dims their light.
constexpr double kShadows = 0.15;

constexpr auto kOneScene =
    " show one scene, whose details cannot be told from dust: each was searched by itself";
constexpr auto kAsScanned = ": dust is dark, so it is searched as a negative that is not inverted";

bool guessedDark(const Searched& found) {
    return found.guessed && found.dust == find::Polarity::Dark;
}

/// The steps of one search, which add to one result.
class Searching {
  public:
    Searching(SearchedSeries& out, size_t frames, const Progress& progress, std::stop_token stop)
        : m_out(out), m_frames(double(frames)), m_progress(progress), m_stop(std::move(stop)) {}

    void inTheLightOf(const carry::DustChart& chart, const std::vector<std::string>& frames) {
        for (const auto& id : frames)
            search(id, 1, [&](const Opened& of, Searched& found) {
                keep(id, found);
                confirm(id, of.pixels, chart);
            });
    }

    void apart(const std::vector<std::string>& frames, double share = 1) {
        for (const auto& id : frames)
            search(id, share, [&](const Opened& of, Searched& found) {
                keep(id, found);
                if (guessedDark(found)) m_out.notes.push_back(of.frame.name() + kAsScanned);
            });
    }

    /// Ends with the lines of their roll, or the dust of their glass, that frames searched before
    /// show with them. Those stay as they are.
    void besideSearched(const std::vector<std::string>& frames) {
        apart(frames);
        std::vector<std::string> searched;
        for (const auto& f : m_out.series.frames)
            if (f->searched) searched.push_back(f->id);
        const carry::PixelSource own = [&](const series::Frame& frame, std::stop_token stop) {
            const bool asked = std::ranges::count(frames, frame.id) > 0;
            return asked ? originalPixels(frame, std::move(stop)) : cancelled();
        };
        const auto origin = m_out.series.plan.origin;
        for (const auto& all : searchedTogether(m_out.series, searched)) {
            if (origin == find::Origin::Sensor || std::ranges::count(all, frames.front()) == 0)
                continue;
            const auto tied = find::isFilm(origin)
                                  ? carry::withRollLines(m_out.series, all, own, {}, m_stop)
                                  : carry::withGlassDust(m_out.series, all, own, m_stop);
            for (const auto& id : frames) m_out.series = m_out.series.with(*tied.frame(id));
            m_out.series.nextId = tied.nextId;
        }
    }

    /// Ends with what the frames say together.
    void sensor(const std::vector<std::string>& frames, Untold untold) {
        carry::Consensus consensus;
        for (const auto& id : frames)
            search(id, kSearching, [&](const Opened& of, Searched& found) {
                keep(id, found);
                // Frames of one sensor are not refused; what is left is the wish to stop.
                (void)consensus.add(of.pixels, of.frame, m_stop);
            });
        auto chart = consensus.chart();  // none where too few could be read
        if (consensus.isOfOneScene())
            m_out.notes.push_back(m_out.series.frame(frames.front())->name() + " to " +
                                  m_out.series.frame(frames.back())->name() + kOneScene);
        const bool ofOne = untold == Untold::OneCamera ||
                           !m_out.series.frame(frames.front())->camera.empty() ||
                           (chart && chart->showsOneSensor());
        if (chart && ofOne) {
            chart = withShadows(std::move(*chart), frames);
            if (!chart) return;  // stopped
            m_out.charts.push_back(*chart);
        }
        done(kShadows * double(frames.size()));
        for (const auto& id : frames) {
            if (m_stop.stop_requested()) return;
            if (chart && ofOne) confirmAgain(id, *chart);
            done(1 - kSearching - kShadows);
        }
    }

    /// The frames agree on what dust is like, and show the lines of their roll.
    void film(const std::vector<std::string>& frames) {
        std::map<std::string, Searched> found;
        carry::Doubtful doubtful;
        const double end = m_done + double(frames.size());
        for (const auto& id : frames)
            search(id, kSearching,
                   [&](const Opened&, Searched& its) { found[id] = std::move(its); });
        std::vector<Searched*> all;
        for (auto& [id, its] : found) all.push_back(&its);
        agreeOnDust(all);
        const auto asScanned = std::find_if(frames.begin(), frames.end(), [&](const auto& id) {
            return found.contains(id) && guessedDark(found[id]);
        });
        if (asScanned != frames.end())
            m_out.notes.push_back(m_out.series.frame(*asScanned)->name() + kAsScanned);
        std::vector<std::string> searched;
        for (const auto& id : frames)
            if (const auto its = found.find(id); its != found.end()) {
                keep(id, its->second);
                doubtful[id] = std::move(its->second.otherwise);
                searched.push_back(id);
            }
        m_out.series = carry::withRollLines(m_out.series, searched, readAgain(), doubtful, m_stop);
        done(end - m_done);
    }

    /// Scans of one glass show its dust.
    void prints(const std::vector<std::string>& frames) {
        const double end = m_done + double(frames.size());
        const size_t before = m_out.searched.size();
        apart(frames, kSearching);
        const std::vector<std::string> searched(m_out.searched.begin() + long(before),
                                                m_out.searched.end());
        m_out.series = carry::withGlassDust(m_out.series, searched, readAgain(), m_stop);
        done(end - m_done);
    }

  private:
    struct Opened {
        const Image& pixels;
        const series::Frame& frame;
    };

    template <class Then>
    void search(const std::string& id, double share, Then then) {
        if (m_stop.stop_requested()) return;
        const auto frame = m_out.series.frame(id);
        const auto loaded = openOriginal(*frame, false, m_stop);
        if (!loaded) return fault(loaded.error(), share);
        const auto part = [&](double p) { tell(share * (0.3 + 0.7 * p)); };
        part(0);
        auto found = render::search(*loaded, *frame, m_out.series.plan, part, m_stop);
        if (!found) return fault(found.error(), share);
        then(Opened{loaded->picture.pixels, *frame}, *found);
        done(share);
    }

    void keep(const std::string& id, Searched& found) {
        const auto frame = m_out.series.frame(id);
        takeScratches(found);
        for (const auto& note : found.notes) m_out.notes.push_back(frame->name() + ": " + note);
        m_out.searched.push_back(id);
        m_out.series = m_out.series.with(
            series::withFindings(*frame, std::move(found.findings), m_out.series.nextId));
    }

    Result<carry::DustChart> withShadows(carry::DustChart chart,
                                         const std::vector<std::string>& ids) const {
        std::vector<series::FramePtr> frames;
        for (const auto& id : ids) frames.push_back(m_out.series.frame(id));
        return carry::withShadows(
            std::move(chart), frames, originalPixels,
            [&](double p) { tell(p * kShadows * double(ids.size())); }, m_stop);
    }

    void confirm(const std::string& id, const Image& pixels, const carry::DustChart& chart) {
        m_out.series = m_out.series.with(
            carry::confirmed(*m_out.series.frame(id), pixels, chart, m_out.series.nextId, m_stop));
    }

    void confirmAgain(const std::string& id, const carry::DustChart& chart) {
        const auto pixels = originalPixels(*m_out.series.frame(id), m_stop);
        if (pixels) confirm(id, *pixels, chart);  // else it was named by its search
    }

    /// Reads frames in which something is missing that the others show, and tells of it.
    carry::PixelSource readAgain() {
        return [this](const series::Frame& frame, std::stop_token stop) {
            auto pixels = originalPixels(frame, std::move(stop));
            done(1 - kSearching);
            return pixels;
        };
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
        if (m_progress) m_progress(std::min(1.0, (m_done + part) / m_frames));
    }

    SearchedSeries& m_out;
    double m_frames, m_done = 0;
    const Progress& m_progress;
    std::stop_token m_stop;
};

}  // namespace

std::vector<std::vector<std::string>> searchedTogether(const series::Series& series,
                                                       const std::vector<std::string>& frames) {
    const auto origin = series.plan.origin;
    const auto belongs = [&](const series::Frame& frame, const series::Frame& first) {
        if (find::isFilm(origin)) return frame.file.parent_path() == first.file.parent_path();
        if (origin == find::Origin::Print)
            return frame.file.parent_path() == first.file.parent_path() &&
                   frame.geometry.stored == first.geometry.stored;
        return first.camera == frame.camera && carry::refusal(first, frame).empty();
    };
    std::vector<std::vector<std::string>> out;
    for (const auto& id : frames) {
        const auto of = std::find_if(out.begin(), out.end(), [&](const auto& group) {
            return belongs(*series.frame(id), *series.frame(group.front()));
        });
        if (of != out.end())
            of->push_back(id);
        else
            out.push_back({id});
    }
    return out;
}

Result<SearchedSeries> searchSeries(const series::Series& series,
                                    const std::vector<std::string>& frames, Untold untold,
                                    const Progress& progress, std::stop_token stop,
                                    const std::vector<carry::DustChart>& known) {
    SearchedSeries out{series, {}, {}, {}, {}};
    Searching searching(out, frames.size(), progress, stop);
    for (const auto& group : searchedTogether(series, frames)) {
        const auto chart = std::ranges::find_if(known, [&](const auto& c) {
            return c.frames > int(group.size()) && c.isOf(*series.frame(group.front()));
        });
        if (series.plan.origin == find::Origin::Sensor && chart != known.end())
            searching.inTheLightOf(*chart, group);
        else if (group.size() < kTogether)
            searching.besideSearched(group);
        else if (series.plan.origin == find::Origin::Sensor)
            searching.sensor(group, untold);
        else if (find::isFilm(series.plan.origin))
            searching.film(group);
        else
            searching.prints(group);
    }
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
