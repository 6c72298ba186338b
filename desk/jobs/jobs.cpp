#include "desk/jobs/jobs.h"

#include <QCoreApplication>
#include <QTimer>
#include <algorithm>

namespace gq::desk {

constexpr int kThreads = 4;
constexpr int kLate = 300;  ///< ms until a job that shows late does

Jobs::Jobs(QObject* parent) : QObject(parent) {
    for (int i = 0; i < kThreads; ++i)
        m_threads.emplace_back([this](const std::stop_token& stop) { work(stop); });
}

Jobs::~Jobs() {
    for (auto& s : m_stops) s.request_stop();
    m_threads.clear();
    QCoreApplication::removePostedEvents(this);
}

void Jobs::start(Body body, bool background) {
    {
        const std::lock_guard lock(m_guard);
        (background ? m_quiet : m_urgent).push_back(std::move(body));
    }
    m_more.notify_one();
}

/// Ends when it shall and nothing waits.
void Jobs::work(const std::stop_token& stop) {
    const auto waiting = [this] { return !m_urgent.empty() || !m_quiet.empty(); };
    std::unique_lock lock(m_guard);
    while (m_more.wait(lock, stop, waiting) || waiting()) {
        auto& from = m_urgent.empty() ? m_quiet : m_urgent;
        auto body = std::move(from.front());
        from.pop_front();
        lock.unlock();
        body();
        body = nullptr;
        lock.lock();
    }
}

void Jobs::deliver(Body body) {
    {
        const std::lock_guard lock(m_guard);
        m_delivered.push_back(std::move(body));
    }
    QMetaObject::invokeMethod(this, "takeDelivered", Qt::QueuedConnection);
}

void Jobs::post(const QPointer<QObject>& receiver, Body body) {
    deliver([receiver, body = std::move(body)] {
        if (receiver) body();
    });
}

/// One a call, so that a dialog that opens within does not hold up the others.
void Jobs::takeDelivered() {
    std::unique_lock lock(m_guard);
    auto body = std::move(m_delivered.front());
    m_delivered.pop_front();
    lock.unlock();
    body();
}

int Jobs::begin(const QString& name, Show show, const std::stop_source& stop) {
    const int id = m_next++;
    ++m_running;
    std::erase_if(m_stops, [](const auto& s) { return s.stop_requested(); });
    m_stops.push_back(stop);
    if (stoppingAll()) m_stops.back().request_stop();
    if (!name.isEmpty()) {
        Active a{id, name, show, show == Show::AtOnce, 0, {}, stop};
        a.since.start();
        m_active.push_back(std::move(a));
        if (show == Show::Late)
            QTimer::singleShot(kLate, this, [this, id] { showLate(id); });
        else
            emit changed();
    }
    return id;
}

void Jobs::showLate(int id) {
    const auto a = std::ranges::find(m_active, id, &Active::id);
    if (a == m_active.end()) return;
    a->shown = true;
    emit changed();
}

void Jobs::end(int id) {
    --m_running;
    if (m_running == 0) m_stops.clear();
    const auto a = std::ranges::find(m_active, id, &Active::id);
    if (a != m_active.end()) {
        const bool wasShown = a->shown;
        m_active.erase(a);
        if (wasShown) emit changed();
    }
    if (m_running == 0 && stoppingAll()) std::exchange(m_onceIdle, {})();
}

void Jobs::stopAll(Body then) {
    if (m_running == 0) return then();
    m_onceIdle = std::move(then);
    for (auto& s : m_stops) s.request_stop();
}

void Jobs::setShare(int id, double share) {
    const auto a = std::ranges::find(m_active, id, &Active::id);
    if (a == m_active.end()) return;
    a->share = share;
    if (a->shown) emit progressed();
}

bool Jobs::busy() const {
    return std::ranges::any_of(m_active, [](const Active& a) { return a.show == Show::AtOnce; });
}

const Jobs::Active* Jobs::shown() const {
    const auto last = std::find_if(m_active.rbegin(), m_active.rend(), std::mem_fn(&Active::shown));
    return last == m_active.rend() ? nullptr : &*last;
}

QString Jobs::name() const {
    return showing() ? shown()->name : QString();
}
double Jobs::share() const {
    return showing() ? shown()->share : 0;
}

double Jobs::secondsLeft() const {
    const auto* a = shown();
    if (!a || a->share < 0.05) return -1;
    return double(a->since.elapsed()) / 1000 * (1 - a->share) / a->share;
}

void Jobs::stopShown() {
    for (auto& a : m_active)
        if (a.shown) a.stop.request_stop();
}

}  // namespace gq::desk
