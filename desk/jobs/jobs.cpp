#include "desk/jobs/jobs.h"

#include <QCoreApplication>

namespace gq::desk {

constexpr int kThreads = 4;

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

int Jobs::begin(const QString& name, const std::stop_source& stop) {
    const int id = m_next++;
    ++m_running;
    std::erase_if(m_stops, [](const auto& s) { return s.stop_requested(); });
    m_stops.push_back(stop);
    if (!name.isEmpty()) {
        Active a{id, name, 0, {}, stop};
        a.since.start();
        m_active.push_back(std::move(a));
        emit changed();
    }
    return id;
}

void Jobs::end(int id) {
    --m_running;
    if (m_running == 0) m_stops.clear();
    if (std::erase_if(m_active, [&](const auto& a) { return a.id == id; }) > 0) emit changed();
}

void Jobs::setShare(int id, double share) {
    for (auto& a : m_active)
        if (a.id == id) {
            a.share = share;
            emit progressed();
        }
}

QString Jobs::name() const {
    return m_active.empty() ? QString() : m_active.back().name;
}
double Jobs::share() const {
    return m_active.empty() ? 0 : m_active.back().share;
}

double Jobs::secondsLeft() const {
    if (m_active.empty() || m_active.back().share < 0.05) return -1;
    const auto& a = m_active.back();
    return double(a.since.elapsed()) / 1000 * (1 - a.share) / a.share;
}

void Jobs::stopNamed() {
    for (auto& a : m_active) a.stop.request_stop();
}

}  // namespace gq::desk
