#pragma once
#include <QElapsedTimer>
#include <QObject>
#include <QPointer>
#include <QString>
#include <QThreadPool>
#include <functional>
#include <memory>
#include <stop_token>
#include <vector>

#include "core/pixels/parallel.h"

namespace gq::desk {

/// Runs core off the window's thread. A named job shows in the tray with its share done, the time
/// left and Stop; an unnamed one is quiet.
class Jobs : public QObject {
    Q_OBJECT
  public:
    explicit Jobs(QObject* parent = nullptr);
    ~Jobs() override;  ///< stops all and waits

    /// Runs `work(stop, progress)` on a worker and then `done(result)` on the window's thread,
    /// unless `receiver` is gone by then. Returns a way to stop it.
    template <class Work, class Done>
    std::stop_source run(const QString& name, QObject* receiver, Work work, Done done);

    /// From a worker: runs `body` on the window's thread, unless `receiver` is gone by then.
    template <class Body>
    void post(const QPointer<QObject>& receiver, Body body);

    [[nodiscard]] bool busy() const { return !m_active.empty(); }  ///< any named job
    [[nodiscard]] bool idle() const { return m_running == 0; }     ///< no job at all
    [[nodiscard]] QString name() const;
    [[nodiscard]] double share() const;
    [[nodiscard]] double secondsLeft() const;  ///< negative = not known yet
    void stopNamed();

  signals:
    void changed();

  private:
    struct Active {
        int id;
        QString name;
        double share = 0;
        QElapsedTimer since;
        std::stop_source stop;
    };
    int begin(const QString& name, const std::stop_source& stop);
    void end(int id);
    void setShare(int id, double share);
    void start(std::function<void()> body, bool background);

    /// Not the application's: Qt draws scaled pictures with that one, and would wait for jobs.
    QThreadPool m_pool;
    std::vector<Active> m_active;
    std::vector<std::stop_source> m_stops;
    int m_next = 1, m_running = 0;
};

template <class Work, class Done>
std::stop_source Jobs::run(const QString& name, QObject* receiver, Work work, Done done) {
    std::stop_source stop;
    const int id = begin(name, stop);
    const QPointer<QObject> target(receiver);
    start(
        [=, this]() mutable {
            const Progress progress = [this, id](double share) {
                QMetaObject::invokeMethod(
                    this, [this, id, share] { setShare(id, share); }, Qt::QueuedConnection);
            };
            auto result = std::make_shared<decltype(work(stop.get_token(), progress))>(
                work(stop.get_token(), progress));
            QMetaObject::invokeMethod(
                this,
                [this, id, target, done, result]() mutable {
                    if (target) done(std::move(*result));
                    end(id);
                },
                Qt::QueuedConnection);
        },
        name.isEmpty());
    return stop;
}

template <class Body>
void Jobs::post(const QPointer<QObject>& receiver, Body body) {
    QMetaObject::invokeMethod(
        this,
        [receiver, body = std::move(body)]() mutable {
            if (receiver) body();
        },
        Qt::QueuedConnection);
}

}  // namespace gq::desk
