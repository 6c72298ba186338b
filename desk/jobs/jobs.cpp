#include "desk/jobs/jobs.h"

#include <QCoreApplication>

namespace gq::desk {

Jobs::Jobs(QObject* parent) : QObject(parent) {
    m_pool.setMaxThreadCount(4);
}

Jobs::~Jobs() {
    for (auto& s : m_stops) s.request_stop();
    m_pool.waitForDone();
    QCoreApplication::removePostedEvents(this);
}

void Jobs::start(std::function<void()> body, bool background) {
    m_pool.start(std::move(body), background ? 0 : 1);
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
            emit changed();
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
