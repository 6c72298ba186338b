// Edits a series ten times a second until it is killed; prints each edit's number and time.
#include <QApplication>
#include <QElapsedTimer>
#include <QTimer>
#include <cstdio>

#include "desk/app/main_window.h"

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication app(argc, argv);
    gq::desk::MainWindow window;
    window.show();
    window.open({argv[1]});
    QElapsedTimer since;
    since.start();
    QTimer pen;
    int edits = 0;
    QObject::connect(&pen, &QTimer::timeout, [&] {
        const auto frame = window.document().current();
        if (!frame) return;
        const auto size = frame->geometry.stored;
        gq::mend::Mend m;
        m.region = gq::disc({float(20 + edits * 37 % (size.width - 40)),
                             float(20 + edits * 53 % (size.height - 40))},
                            6, size);
        window.mendWork().add(m, "touch");
        std::printf("%d %lld\n", ++edits, static_cast<long long>(since.elapsed()));
        std::fflush(stdout);
    });
    pen.start(100);
    return QApplication::exec();
}
