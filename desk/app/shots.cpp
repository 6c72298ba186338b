// Makes the pictures of docs/screenshots by working through the demo series.
#include <QApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTest>

#include "desk/app/main_window.h"
#include "desk/look/theme.h"

using namespace gq::desk;
namespace fs = std::filesystem;

namespace {

void settle(MainWindow& w) {
    QElapsedTimer t;
    t.start();
    int calm = 0;
    while (t.elapsed() < 120000 && calm < 6) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 40);
        QThread::msleep(20);
        calm = w.settled() ? calm + 1 : 0;
    }
}

void shoot(MainWindow& w, const QString& folder, const char* name) {
    settle(w);
    w.grab().save(folder + '/' + name + ".png");
}

}  // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    if (argc < 3) {
        qCritical("usage: gq_shots PICTURES FOLDER");
        return 2;
    }
    applyTheme(true);
    QTemporaryDir temporary;
    const fs::path copy = fs::path(temporary.path().toStdString()) / "cloud-watch";
    fs::create_directories(copy);
    for (const auto& e : fs::directory_iterator(argv[1]))
        if (e.path().extension() == ".jpg")
            fs::create_symlink(fs::absolute(e.path()), copy / e.path().filename());
    const QString out = argv[2];
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({copy});
    shoot(w, out, "gather");
    w.setStage(Stage::Find);
    settle(w);
    QTest::keyClick(&w, Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    settle(w);
    QTest::keyClick(&w, Qt::Key_Period);
    QTest::keyClick(&w, Qt::Key_Period);
    shoot(w, out, "find");
    QTest::keyClick(&w, Qt::Key_R);
    shoot(w, out, "raking");
    QTest::keyClick(&w, Qt::Key_R);
    QTest::keyClick(&w, Qt::Key_M, Qt::ControlModifier);
    settle(w);
    w.setStage(Stage::Mend);
    const auto frame = w.document().current();
    if (!frame->mends.empty()) w.document().select(frame->mends.front().id);
    w.bench().zoomTo(1.0, w.bench().toWidget(frame->mends.front().mend.region.centre()));
    w.bench().showEntry(frame->mends.front().id);
    shoot(w, out, "mend");
    w.document().select(0);
    w.bench().fit();
    QTest::keyClick(&w, Qt::Key_Q);
    QTest::keyClick(&w, Qt::Key_W);
    shoot(w, out, "wipe");
    QTest::keyClick(&w, Qt::Key_W);
    QTest::keyClick(&w, Qt::Key_Q);
    QTest::keyClick(&w, Qt::Key_Return, Qt::ControlModifier);
    settle(w);
    shoot(w, out, "carry");
    w.setStage(Stage::Deliver);
    shoot(w, out, "deliver");
    return 0;
}
