#pragma once
#include <QElapsedTimer>
#include <QObject>
#include <QPointer>
#include <QString>
#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <stop_token>
#include <thread>
#include <vector>

#include "core/pixels/parallel.h"

namespace gq::desk {

/// Runs core off the window's thread. A named job shows in the tray with its share done, the time
/// left and Stop; an unnamed one is quiet.
class Jobs : public QObject {
    Q_OBJECT
  public:
    /// When a named job shows. One that shows late is mostly over before, and keeps no other work
    /// from being begun.
    enum class Show { AtOnce, Late };
    using Body = std::function<void()>;

    explicit Jobs(QObject* parent = nullptr);
    ~Jobs() override;  ///< stops all and waits

    /// Runs `work(stop, progress)` on a worker and then `done(result)` on the window's thread,
    /// unless `receiver` is gone by then. Returns a way to stop it.
    template <class Work, class Done>
    std::stop_source run(const QString& name, QObject* receiver, Work work, Done done,
                         Show show = Show::AtOnce);

    /// From a worker: runs `body` on the window's thread, unless `receiver` is gone by then.
    void post(const QPointer<QObject>& receiver, Body body);

    [[nodiscard]] bool busy() const;                            ///< any that shows at once
    [[nodiscard]] bool idle() const { return m_running == 0; }  ///< no job at all
    [[nodiscard]] bool showing() const { return shown() != nullptr; }
    [[nodiscard]] QString name() const;  ///< this and the next two: of the one that shows
    [[nodiscard]] double share() const;
    [[nodiscard]] double secondsLeft() const;  ///< negative = not known yet
    void stopShown();
    /// Stops all jobs, and those that begin meanwhile, and runs `then` on the window's thread once
    /// none is left.
    void stopAll(Body then);
    [[nodiscard]] bool stoppingAll() const { return bool(m_onceIdle); }

  signals:
    void changed();     ///< a job shows, or one that was shown ended
    void progressed();  ///< `share()` is another

  private:
    struct Active {
        int id;
        QString name;
        Show show;
        bool shown;
        double share = 0;
        QElapsedTimer since;
        std::stop_source stop;
    };
    [[nodiscard]] const Active* shown() const;
    int begin(const QString& name, Show show, const std::stop_source& stop);
    void showLate(int id);
    void end(int id);
    void setShare(int id, double share);
    void start(Body body, bool background);
    void work(const std::stop_token& stop);
    void deliver(Body body);  ///< from a worker, to run on the window's thread
    Q_INVOKABLE void takeDelivered();

    std::vector<Active> m_active;
    std::vector<std::stop_source> m_stops;
    int m_next = 1, m_running = 0;
    Body m_onceIdle;  ///< after all were stopped

    // Work is handed over by the standard library, since ThreadSanitizer does not see how Qt does
    // it. The threads are not the application's: Qt draws scaled pictures with those, and would
    // wait for jobs.
    std::mutex m_guard;
    std::condition_variable_any m_more;
    std::deque<Body> m_urgent, m_quiet, m_delivered;
    std::vector<std::jthread> m_threads;
};

template <class Work, class Done>
std::stop_source Jobs::run(const QString& name, QObject* receiver, Work work, Done done,
                           Show show) {
    std::stop_source stop;
    const int id = begin(name, show, stop);
    const QPointer<QObject> target(receiver);
    start(
        [=, this]() mutable {
            std::atomic<int> told = 0;
            const Progress progress = [this, id, &told](double share) {
                const int thousandths = int(share * 1000);
                if (told.exchange(thousandths) == thousandths) return;
                deliver([this, id, share] { setShare(id, share); });
            };
            auto result = std::make_shared<decltype(work(stop.get_token(), progress))>(
                work(stop.get_token(), progress));
            deliver([this, id, target, done, result]() mutable {
                if (target) done(std::move(*result));
                end(id);
            });
        },
        name.isEmpty() || show == Show::Late);
    return stop;
}

}  // namespace gq::desk
