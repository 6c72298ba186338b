#include "desk/document/pictures.h"

#include <QElapsedTimer>
#include <QTimer>

#include "core/render/export.h"

namespace gq::desk {

namespace {
constexpr int kAtOnce = 12;                   ///< ms of showing what changed
constexpr size_t kRecentBytes = 600'000'000;  ///< of frames looked at before, kept for coming back

size_t bytesOf(const Image& image) {
    return image.total() * image.elemSize();
}
}  // namespace

Pictures::Pictures(DeskDocument& document, Jobs& jobs, QObject* parent)
    : QObject(parent), m_document(document), m_jobs(jobs) {
    connect(&document, &DeskDocument::currentChanged, this, &Pictures::follow);
    connect(&document, &DeskDocument::changed, this, &Pictures::follow);
}

void Pictures::follow() {
    const auto frame = m_document.current();
    if (!frame) return;
    if (areOf(*frame)) {
        if (m_frame == frame) return;
        m_frame = frame;
        compose();
        return;
    }
    load(frame);
}

void Pictures::load(const series::FramePtr& frame) {
    const Key key = keyOf(*frame);
    if (m_loading && m_loadingKey == key) return;
    m_loadStop.request_stop();
    for (auto it = m_recent.begin(); it != m_recent.end(); ++it)
        if (it->first == key) {
            m_recent.splice(m_recent.begin(), m_recent, it);
            m_loading = false;
            place(frame, m_recent.front().second);
            return;
        }
    m_loading = true;
    m_loadingKey = key;
    m_loadStop = m_jobs.run(
        {}, this,
        [frame](std::stop_token stop, const Progress&) -> Result<Loaded> {
            const auto loaded = render::openOriginal(*frame, false, stop);
            if (!loaded) return tl::unexpected(loaded.error());
            const auto made = std::make_shared<mend::PatchStore>();
            return Loaded{loaded->picture, makePyramid(loaded->picture.pixels), made,
                          std::make_shared<render::Composer>(made.get())};
        },
        [this, key](Result<Loaded> loaded) {
            if (m_loadingKey != key || !m_loading) return;
            m_loading = false;
            if (!loaded) {
                if (loaded.error().kind != Error::Kind::Cancelled)
                    emit m_document.failed(loaded.error());
                return;
            }
            keep(key, std::move(*loaded));
            const auto current = m_document.current();
            if (current && keyOf(*current) == key) place(current, m_recent.front().second);
        });
}

void Pictures::keep(Key key, Loaded loaded) {
    m_recent.emplace_front(std::move(key), std::move(loaded));
    size_t bytes = 0;
    for (auto it = std::next(m_recent.begin()); it != m_recent.end();) {
        bytes += bytesOf(it->second.original.pixels);
        for (const auto& level : it->second.before.levels) bytes += bytesOf(level);
        it = bytes > kRecentBytes ? m_recent.erase(it) : std::next(it);
    }
}

void Pictures::place(const series::FramePtr& frame, const Loaded& loaded) {
    m_frame = frame;
    m_preview = nullptr;
    m_original = loaded.original;
    m_composed = render::Composition(loaded.original.pixels);
    m_before = loaded.before;
    m_after = loaded.before;  // the same pixels until `compose` made a copy to lay mends on
    m_afterIsOwn = false;
    m_bare = true;
    m_patches.clear();
    m_toShow.clear();
    if (m_composer) m_composer->dropSpare();
    m_made = loaded.made;
    m_composer = loaded.composer;
    m_composeStop.request_stop();
    emit replaced();
    compose();
}

void Pictures::preview(std::shared_ptr<const series::Frame> frame) {
    m_preview = std::move(frame);
    compose();
}

void Pictures::compose() {
    if (!m_frame || original().empty()) return;
    if (m_composing) {
        m_again = true;
        // The rest of what a newer edit makes obsolete need not be made.
        if (m_glimpsed) m_composeStop.request_stop();
        return;
    }
    m_composing = true;
    m_glimpsed = false;
    const auto frame = m_preview ? m_preview : m_frame;
    const auto composer = m_composer;
    const Image pixels = original();
    const float line = m_document.now()->plan.line;
    const auto copy = std::make_shared<Pyramid>();
    if (!m_afterIsOwn) *copy = m_before;
    const auto early = [this, composer, copy, jobs = &m_jobs,
                        self = QPointer<QObject>(this)](auto out) {
        // On a worker: of this object nothing is touched but by what is posted.
        jobs->post(self, [this, composer, copy, out = std::move(out)]() mutable {
            if (composer != m_composer) return;
            takeCopy(*copy);
            show(std::move(out));
            m_glimpsed = true;
            if (m_again) m_composeStop.request_stop();
        });
    };
    // The composer reads `made`, which has to live as long.
    m_composeStop = m_jobs.run(
        tr("Making mends"), this,
        [=, made = m_made](std::stop_token stop, const Progress& progress) {
            for (auto& level : copy->levels) level = level.clone();
            return composer->compose(pixels, *frame, line, progress, stop, early);
        },
        [this, composer, copy](Result<render::Composer::Outcome> out) {
            m_composing = false;
            if (composer == m_composer) takeCopy(*copy);
            if (out && composer == m_composer) {
                m_made->clear();  // the composer keeps what it laid
                show(std::move(*out));
            }
            if (std::exchange(m_again, false) || composer != m_composer)
                compose();
            else if (!out && !m_jobs.stoppingAll())
                tellStopped();
        },
        Jobs::Show::Late);
}

void Pictures::tellStopped() {
    emit m_document.failed({Error::Kind::Cancelled, "not all of its mends are made",
                            m_frame->file.filename().string(),
                            "They are made with the next change. What is delivered has them all."});
}

void Pictures::takeCopy(const Pyramid& copy) {
    if (m_afterIsOwn || copy.empty()) return;
    m_after = copy;
    m_afterIsOwn = true;
}

void Pictures::show(render::Composer::Outcome out) {
    m_composed = std::move(out.picture);
    m_patches = std::move(out.patches);
    const bool behind = !m_toShow.empty();
    if (std::exchange(m_bare, false))
        for (const auto& [id, patch] : m_patches) m_toShow.push_back(patch->box);
    else
        m_toShow.insert(m_toShow.end(), out.changed.begin(), out.changed.end());
    if (!behind) showSome();
    for (const auto& f : out.faults) emit m_document.failed(f);
}

/// Thousands of mends at once are shown bit by bit, so that the window answers meanwhile.
void Pictures::showSome() {
    QElapsedTimer time;
    time.start();
    std::vector<Rect> shown;
    while (!m_toShow.empty() && time.elapsed() < kAtOnce) {
        const Rect r = m_toShow.back();
        m_toShow.pop_back();
        update(m_after, {m_composed.part(r), r.tl(), m_composed.size()}, r);
        shown.push_back(r);
    }
    if (!m_toShow.empty()) QTimer::singleShot(0, this, &Pictures::showSome);
    emit touched(shown);
}

}  // namespace gq::desk
