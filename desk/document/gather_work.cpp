#include "desk/document/gather_work.h"

#include <QGuiApplication>

#include "desk/look/convert.h"

namespace gq::desk {

using series::FileState;

GatherWork::GatherWork(DeskDocument& document, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_jobs(jobs) {
    connect(&document, &DeskDocument::opened, this, [this] {
        m_amiss.clear();  // another series names its frames alike
        emit statesChanged();
        look();
    });
    connect(&document, &DeskDocument::changed, this, &GatherWork::lookIfOthers);
    connect(qGuiApp, &QGuiApplication::applicationStateChanged, this, [this](auto state) {
        if (state == Qt::ApplicationActive && m_document.isOpen()) look();
    });
}

FileState GatherWork::stateOf(const std::string& frame) const {
    const auto it = m_amiss.find(frame);
    return it == m_amiss.end() ? FileState::There : it->second;
}

std::vector<std::string> GatherWork::framesIn(FileState state) const {
    std::vector<std::string> out;
    for (const auto& f : m_looked)
        if (stateOf(f->id) == state) out.push_back(f->id);
    return out;
}

void GatherWork::lookIfOthers() {
    const auto& frames = m_document.now()->frames;
    const auto sameFile = [](const series::FramePtr& a, const series::FramePtr& b) {
        return a->id == b->id && a->file == b->file && a->hash == b->hash;
    };
    if (!std::ranges::equal(frames, m_looked, sameFile)) look();
}

void GatherWork::look() {
    m_looked = m_document.now()->frames;
    m_jobs.run(
        {}, this,
        [frames = m_looked](std::stop_token, const Progress&) {
            std::map<std::string, FileState> amiss;
            for (const auto& f : frames)
                if (const auto state = series::fileState(*f); state != FileState::There)
                    amiss[f->id] = state;
            return std::pair(frames, amiss);
        },
        [this](auto seen) {
            if (seen.first != m_looked || seen.second == m_amiss) return;
            m_amiss = std::move(seen.second);
            emit statesChanged();
        });
}

void GatherWork::takeOut(const std::string& id) {
    const auto s = m_document.now();
    const auto frame = s->frame(id);
    if (!frame) return;
    if (s->frames.size() == 1) {
        emit told(tr("%1 is the only frame of the series and stays").arg(text(frame->name())));
        return;
    }
    const int at = s->indexOf(id);
    auto next = series::without(*s, {id});
    const auto beside = next.frames[std::min(size_t(at), next.frames.size() - 1)]->id;
    if (m_document.current() == frame) m_document.setCurrent(beside);
    m_document.commit(std::move(next), tr("take out %1").arg(text(frame->name())));
    emit told(
        tr("%1 is no longer in the series; its file stays where it is").arg(text(frame->name())));
}

void GatherWork::order(series::Order order) {
    auto next = series::ordered(*m_document.now(), order);
    if (next.frames == m_document.now()->frames) return;
    m_document.commit(std::move(next),
                      order == series::Order::Name ? tr("order by name") : tr("order by time"));
}

void GatherWork::locate(const std::filesystem::path& folder) {
    const auto before = m_document.now();
    if (framesIn(FileState::Missing).empty()) {
        emit told(tr("No picture is missing"));
        return;
    }
    m_jobs.run(
        tr("Looking for pictures"), this,
        [before, folder](std::stop_token stop, const Progress& progress) {
            return series::located(*before, folder, progress, stop);
        },
        [this, before](const series::Series& after) {
            series::Series next = *m_document.now();  // edited meanwhile, perhaps
            int found = 0;
            for (const auto& f : after.frames) {
                const auto now = next.frame(f->id);
                if (f == before->frame(f->id) || !now) continue;
                next = next.with(series::withFileOf(*now, *f));
                ++found;
            }
            const int missing = int(framesIn(FileState::Missing).size());
            if (found) m_document.commit(std::move(next), tr("locate pictures"));
            emit told(found ? tr("%1 of %2 found").arg(found).arg(counted(missing, tr("picture")))
                            : tr("None of the missing pictures is there"));
        });
}

void GatherWork::takeAsTheyAre() {
    std::vector<series::FramePtr> frames;
    for (const auto& id : framesIn(FileState::Changed))
        if (const auto f = m_document.now()->frame(id)) frames.push_back(f);
    m_jobs.run(
        tr("Reading pictures"), this,
        [frames](std::stop_token stop, const Progress& progress) {
            std::vector<Result<series::Frame>> out;
            for (const auto& f : frames) {
                if (stop.stop_requested()) break;
                out.push_back(series::withFileAsItIs(*f));
                progress(double(out.size()) / double(frames.size()));
            }
            return out;
        },
        [this](const auto& read) {
            series::Series next = *m_document.now();
            for (const auto& r : read) {
                if (!r) {
                    emit m_document.failed(r.error());
                    continue;
                }
                if (const auto now = next.frame(r->id))
                    next = next.with(series::withFileOf(*now, *r));
            }
            if (next.frames != m_document.now()->frames)
                m_document.commit(std::move(next), tr("take files as they are"));
        });
}

}  // namespace gq::desk
