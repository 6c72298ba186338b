#pragma once
#include <QCoreApplication>
#include <QElapsedTimer>

#include "desk/app/main_window.h"

namespace gq::desk {

/// False when it has not come true in time.
template <class Until>
bool spin(Until until, int milliseconds = 60000) {
    QElapsedTimer t;
    t.start();
    while (!until()) {
        if (t.elapsed() > milliseconds) return false;
        QCoreApplication::processEvents(QEventLoop::AllEvents, 1);
    }
    return true;
}

inline void settle(MainWindow& w) {
    for (int calm = 0; calm < 5; ++calm)
        if (!spin([&] { return w.settled(); })) return;
}

/// Wall time of a body, ms.
template <class Body>
double timed(Body body) {
    QElapsedTimer t;
    t.start();
    body();
    return double(t.nsecsElapsed()) * 1e-6;
}

}  // namespace gq::desk
