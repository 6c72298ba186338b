#include "desk/document/desk_document.h"

#include <algorithm>
#include <limits>

#include <fmt/core.h>

#include <QStandardPaths>

#include "core/files/folder_scan.h"
#include "core/render/kept_charts.h"
#include "core/series/told_origin.h"

namespace gq::desk {
namespace fs = std::filesystem;

namespace {

/// Writes steps from `from` on and what differs from `saved`.
Status write(const fs::path& folder, const series::History& history, long from,
             const series::SeriesPtr& saved) {
    // The step first: one that does not lead to the series is left out when it is opened.
    if (auto ok = series::saveHistory(folder, history, from); !ok) return ok;
    return series::saveSeries(folder, *history.now(), saved.get());
}

/// The folder of the series of pictures that lie in `pictures`, or that is `first` itself.
fs::path seriesFolderOf(const fs::path& first) {
    std::error_code code;
    if (series::isSeriesFolder(first)) return first;
    return series::seriesFolderFor(fs::is_directory(first, code) ? first : first.parent_path());
}

/// Where a series of pictures goes when their own folder cannot be written to.
fs::path fallbackFolder(const fs::path& pictures) {
    const fs::path data =
        QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString();
    return data / "gentle-quill" / "series" /
           fmt::format("{}-{:08x}", pictures.filename().string(),
                       unsigned(fs::hash_value(pictures)));
}

}  // namespace

DeskDocument::DeskDocument(Jobs& jobs, QObject* parent) : QObject(parent), m_jobs(jobs) {
    m_saveTimer.setSingleShot(true);
    m_saveTimer.setInterval(400);
    connect(&m_saveTimer, &QTimer::timeout, this, &DeskDocument::save);
}

DeskDocument::~DeskDocument() {
    if (saved()) return;
    const long from = std::min(m_history->changedFrom(), m_unkeptFrom);
    const auto ok = write(m_folder, *m_history, from, m_savedSeries);
    if (!ok) qCritical("%s", ok.error().message().c_str());
}

Result<DeskDocument::Opening> DeskDocument::load(const std::vector<fs::path>& paths,
                                                 const Progress& progress, std::stop_token) {
    std::error_code code;
    const fs::path first = fs::absolute(paths.front(), code).lexically_normal();
    if (!fs::exists(first, code))
        return fail(Error::Kind::NotFound, "there is no such file or folder", first.string(),
                    "Check the name, or connect the disk it is on.");
    const bool folder = fs::is_directory(first, code);
    const fs::path pictures = folder ? first : first.parent_path();
    Opening out;
    out.folder = seriesFolderOf(first);
    auto lock = series::FolderLock::take(out.folder);
    if (!lock && lock.error().kind == Error::Kind::NoPermission && !series::isSeriesFolder(first)) {
        out.folder = fallbackFolder(pictures);
        lock = series::FolderLock::take(out.folder);
    }
    if (!lock) return tl::unexpected(lock.error());
    out.lock = std::move(*lock);
    if (series::isSeriesFolder(out.folder)) {
        auto loaded = series::loadSeries(out.folder);
        if (!loaded) return tl::unexpected(loaded.error());
        out.history = series::loadHistory(out.folder, *loaded);
        auto charts = render::keptCharts(out.folder);
        if (charts)
            out.charts = std::move(*charts);
        else
            out.faults.push_back(charts.error());
        return out;
    }
    if (progress) progress(0.1);
    std::string name = pictures.filename().string();
    for (auto& c : name)
        if (c == '-' || c == '_') c = ' ';
    if (!name.empty()) name[0] = char(std::toupper(static_cast<unsigned char>(name[0])));
    auto made = series::makeSeries(
        files::pictureFiles(folder ? std::vector<fs::path>{first} : paths), name, out.faults);
    if (made.frames.empty())
        return out.faults.empty()
                   ? Result<Opening>(fail(Error::Kind::NotFound,
                                          "there is no picture in this folder", first.string(),
                                          "Choose a folder with JPEG, PNG, TIFF or raw files."))
                   : Result<Opening>(tl::unexpected(out.faults.front()));
    made.plan.origin = series::toldOrigin(made.frames).value_or(made.plan.origin);
    if (auto ok = series::saveSeries(out.folder, made); !ok) return tl::unexpected(ok.error());
    out.history.emplace(std::move(made));
    return out;
}

void DeskDocument::open(const std::vector<fs::path>& paths) {
    if (paths.empty()) return;
    std::error_code code;
    const fs::path first = fs::absolute(paths.front(), code).lexically_normal();
    if (isOpen() && seriesFolderOf(first) == m_folder) {
        emit failed({Error::Kind::Refused, "this series is open already", m_folder.string(),
                     "Add pictures to it by Add, or open another folder."});
        return;
    }
    if (m_jobs.busy()) {
        emit failed({Error::Kind::Busy,
                     m_jobs.name().toStdString() + " is under way",
                     {},
                     "Wait until it is done, or stop it, and open the pictures then."});
        return;
    }
    m_jobs.run(
        tr("Opening"), this,
        [paths](std::stop_token stop, const Progress& p) { return load(paths, p, stop); },
        [this](Result<Opening> r) {
            if (!r) {
                emit failed(r.error());
                return;
            }
            emit leaving();
            // No job of what is open now may end in what is opened.
            m_jobs.stopAll([this, opening = std::make_shared<Opening>(std::move(*r))] {
                adoptOnceSaved(opening);
            });
        });
}

void DeskDocument::adoptOnceSaved(std::shared_ptr<Opening> opening) {
    if (saved()) {
        adopt(std::move(*opening));
    } else {
        m_next = std::move(opening);
        save();
    }
}

void DeskDocument::adopt(Opening opening) {
    m_saveTimer.stop();
    m_unkeptFrom = 1;
    m_history = std::make_unique<series::History>(std::move(*opening.history));
    m_folder = opening.folder;
    m_lock = std::move(opening.lock);
    m_savedSeries = m_history->now();
    m_charts = std::make_shared<const Charts>(std::move(opening.charts));
    m_unticked.clear();
    m_selected = 0;
    m_also.clear();
    m_current = m_history->now()->reference;
    emit opened();
    emit changed();
    emit currentChanged();
    emit selectionChanged();
    for (const auto& f : opening.faults) emit failed(f);
}

void DeskDocument::addFrames(const std::vector<fs::path>& paths) {
    if (!isOpen()) return open(paths);
    struct Added {
        std::vector<series::Frame> frames;
        std::vector<Error> faults;
    };
    m_jobs.run(
        tr("Gathering"), this,
        [paths](std::stop_token stop, const Progress& progress) {
            Added out;
            const auto files = files::pictureFiles(paths);
            for (size_t i = 0; i < files.size() && !stop.stop_requested(); ++i) {
                auto f = series::makeFrame(files[i], "", &out.faults);
                if (f)
                    out.frames.push_back(std::move(*f));
                else
                    out.faults.push_back(f.error());
                progress(double(i + 1) / double(files.size()));
            }
            return out;
        },
        [this](Added added) {
            series::Series next = *now();
            int number = int(next.frames.size());
            // An undone step may bring a frame back: its name is not given away.
            const auto wasGiven = [this](const std::string& id) {
                return std::ranges::any_of(m_history->versions(), [&](const auto& version) {
                    return version.series->frame(id) != nullptr;
                });
            };
            for (auto& f : added.frames) {
                const auto twin = std::find_if(next.frames.begin(), next.frames.end(),
                                               [&](const auto& o) { return o->hash == f.hash; });
                if (twin != next.frames.end()) {
                    added.faults.push_back(
                        {Error::Kind::Refused,
                         "this picture is in the series already, as " + (*twin)->name(),
                         f.file.string(), "It was not added again."});
                    continue;
                }
                do f.id = fmt::format("f{:04}", ++number);
                while (next.frame(f.id) || wasGiven(f.id));
                next.frames.push_back(std::make_shared<const series::Frame>(std::move(f)));
            }
            if (next.frames.size() != now()->frames.size())
                commit(std::move(next), tr("add frames"));
            for (const auto& f : added.faults) emit failed(f);
        });
}

series::SeriesPtr DeskDocument::now() const {
    return m_history ? m_history->now() : nullptr;
}

float DeskDocument::line() const {
    return m_previewLine.value_or(m_history->now()->plan.line);
}

void DeskDocument::previewLine(std::optional<float> line) {
    m_previewLine = line;
    emit lineMoved();
}

void DeskDocument::commit(series::Series next, const QString& what) {
    m_history->commit(std::move(next), what.toStdString());
    afterChange();
}

void DeskDocument::amend(series::Series now) {
    m_history->amend(std::move(now));
    afterChange();
}

void DeskDocument::undo() {
    if (!m_history || !m_history->canUndo()) return;
    m_history->undo();
    afterChange();
}

void DeskDocument::redo() {
    if (!m_history || !m_history->canRedo()) return;
    m_history->redo();
    afterChange();
}

void DeskDocument::setCharts(Charts charts) {
    m_charts = std::make_shared<const Charts>(std::move(charts));
    emit chartsChanged();
}

void DeskDocument::afterChange() {
    if (!now()->frame(m_current)) setCurrent(now()->reference);
    if (m_selected && !selectedMend() && !selectedFinding()) select(0);
    emit changed();
    if (!m_saveTimer.isActive()) m_saveTimer.start();
    emit saveStateChanged();
}

void DeskDocument::save() {
    if (m_saving || saved()) return;
    m_saving = true;
    const auto series = now(), before = m_savedSeries;
    const auto folder = m_folder;
    const series::History history = *m_history;  // versions are shared, so this is small
    const long from = std::min(history.changedFrom(), m_unkeptFrom);
    m_history->keptSteps();
    m_unkeptFrom = std::numeric_limits<long>::max();
    m_jobs.run(
        {}, this,
        [=](std::stop_token, const Progress&) { return write(folder, history, from, before); },
        [this, series, from](Status ok) {
            m_saving = false;
            if (ok) {
                m_savedSeries = series;
            } else {
                m_unkeptFrom = std::min(m_unkeptFrom, from);
                // nothing is lost while the window is open; try again, and say so each time
                emit failed(ok.error());
                QTimer::singleShot(5000, this, &DeskDocument::save);
            }
            if (ok && !saved()) m_saveTimer.start();
            emit saveStateChanged();
            // Unless that failed: then what is open stays.
            if (auto next = std::exchange(m_next, nullptr); next && ok) adoptOnceSaved(next);
        });
}

series::FramePtr DeskDocument::current() const {
    return m_history ? now()->frame(m_current) : nullptr;
}

void DeskDocument::setCurrent(const std::string& frame) {
    if (frame == m_current || !m_history || !now()->frame(frame)) return;
    m_current = frame;
    m_selected = 0;
    m_also.clear();
    emit currentChanged();
    emit selectionChanged();
}

void DeskDocument::select(series::Id entry) {
    if (entry == m_selected && m_also.empty()) return;
    m_selected = entry;
    m_also.clear();
    emit selectionChanged();
}

void DeskDocument::selectMends(const std::vector<series::Id>& mends) {
    m_selected = mends.empty() ? 0 : mends.front();
    m_also.assign(mends.begin() + (mends.empty() ? 0 : 1), mends.end());
    emit selectionChanged();
}

void DeskDocument::toggleMend(series::Id mend) {
    auto all = chosenMends();
    if (const auto at = std::find(all.begin(), all.end(), mend); at != all.end())
        all.erase(at);
    else
        all.push_back(mend);
    selectMends(all);
}

std::vector<series::Id> DeskDocument::chosenMends() const {
    std::vector<series::Id> out;
    if (const auto* m = selectedMend()) out.push_back(m->id);
    if (const auto f = current())
        for (const auto id : m_also)
            if (f->mend(id)) out.push_back(id);
    return out;
}

const series::MendEntry* DeskDocument::selectedMend() const {
    const auto f = current();
    if (!f || !m_selected) return nullptr;
    const auto* own = f->mend(m_selected);
    return own ? own : f->mendOf(m_selected);
}

const series::FindingEntry* DeskDocument::selectedFinding() const {
    const auto f = current();
    if (!f || !m_selected) return nullptr;
    if (const auto* own = f->finding(m_selected)) return own;
    const auto* m = f->mend(m_selected);
    return m ? f->finding(m->finding) : nullptr;
}

std::vector<std::string> DeskDocument::tickedFrames() const {
    std::vector<std::string> out;
    for (const auto& f : now()->frames)
        if (ticked(f->id)) out.push_back(f->id);
    return out;
}

void DeskDocument::setTicked(const std::string& frame, bool on) {
    if (on ? m_unticked.erase(frame) > 0 : m_unticked.insert(frame).second) emit ticksChanged();
}

}  // namespace gq::desk
