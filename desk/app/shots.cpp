// Makes the pictures of docs/screenshots by working through the demo series.
#include <QApplication>
#include <QElapsedTimer>
#include <QSettings>
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

/// A folder of links to a series' frames, so that the demo folder itself stays free of a series.
fs::path linked(const fs::path& demo, const fs::path& folder, const char* series) {
    const fs::path copy = folder / series;
    fs::create_directories(copy);
    for (const auto& e : fs::directory_iterator(demo / series))
        if (e.is_regular_file())
            fs::create_symlink(fs::absolute(e.path()), copy / e.path().filename());
    return copy;
}

void shoot(MainWindow& w, const QString& folder, const char* name) {
    settle(w);
    const QString file = folder + '/' + name + ".png";
    if (!w.grab().save(file)) qFatal("%s can't be written", qPrintable(file));
}

std::vector<std::string> ids(MainWindow& w) {
    std::vector<std::string> out;
    for (const auto& f : w.document().now()->frames) out.push_back(f->id);
    return out;
}

void drag(MainWindow& w, QPoint from, QPoint to) {
    QTest::mousePress(&w.bench(), Qt::LeftButton, {}, from);
    for (int i = 1; i <= 8; ++i) QTest::mouseMove(&w.bench(), from + (to - from) * i / 8);
    QTest::mouseRelease(&w.bench(), Qt::LeftButton, {}, to);
    settle(w);
}

/// A shield over the ground and a heeded strip of sky.
void guideByHand(MainWindow& w) {
    w.bench().setToolSize(300);
    const QRect r = w.bench().rect();
    QTest::keyClick(&w, Qt::Key_H);
    drag(w, {r.width() / 5, r.height() / 3}, {r.width() / 2, r.height() / 3 - 20});
    QTest::keyClick(&w, Qt::Key_S);
    drag(w, {r.width() / 4, r.height() * 7 / 10}, {r.width() * 9 / 10, r.height() * 2 / 3});
}

void shootCloudWatch(const fs::path& folder, const QString& out) {
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({folder});
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
    guideByHand(w);
    shoot(w, out, "guides");
    QTest::keyClick(&w, Qt::Key_Escape);
    QTest::keyClick(&w, Qt::Key_Z, Qt::ControlModifier);
    QTest::keyClick(&w, Qt::Key_Z, Qt::ControlModifier);
    QTest::keyClick(&w, Qt::Key_M, Qt::ControlModifier);
    settle(w);
    w.setStage(Stage::Mend);
    w.bench().setToolSize(48);
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
    QTest::keyClick(&w, Qt::Key_Y);
    w.bench().zoomTo(1.0, w.bench().toWidget(frame->mends.front().mend.region.centre()));
    shoot(w, out, "beside");
    QTest::keyClick(&w, Qt::Key_W, Qt::ShiftModifier);
    w.bench().fit();
    shoot(w, out, "changed");
    QTest::keyClick(&w, Qt::Key_W, Qt::ShiftModifier);
    QTest::keyClick(&w, Qt::Key_Q);
    QTest::keyClick(&w, Qt::Key_Return, Qt::ControlModifier);
    settle(w);
    shoot(w, out, "carry");
    w.setStage(Stage::Deliver);
    shoot(w, out, "deliver");
}

/// A roll of negatives: inverted, searched, and one frame looked at in rounds.
void shootRoll(const fs::path& folder, const QString& out) {
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({folder});
    settle(w);
    w.work().setOrigin(gq::find::Origin::Negative);
    settle(w);
    w.work().findBases(ids(w));
    shoot(w, out, "negatives");
    w.setStage(Stage::Find);
    settle(w);
    w.work().findOn(ids(w));
    settle(w);
    const auto frame = w.document().current();
    for (const auto& e : frame->findings)  // a line that runs along the roll
        if (e.charted && w.document().selected() == 0) w.document().select(e.id);
    shoot(w, out, "roll");
    for (int i = 0; i < 4; ++i) QTest::keyClick(&w, Qt::Key_G);
    QTest::keyClick(&w, Qt::Key_R, Qt::ShiftModifier);
    shoot(w, out, "rounds");
}

/// Points of the shown picture, as shares of its width and height.
std::vector<QPoint> points(MainWindow& w, const std::vector<QPointF>& shares) {
    std::vector<QPoint> out;
    const auto size = w.pictures().frame()->geometry.stored;
    for (const auto& s : shares)
        out.push_back(
            w.bench().toWidget({float(s.x() * size.width), float(s.y() * size.height)}).toPoint());
    return out;
}

/// The tools of Mend at work on a print.
void mendByHand(MainWindow& w, const QString& out) {
    const auto frame = w.document().current();
    w.bench().fit();
    QTest::keyClick(&w, Qt::Key_O);
    for (const auto& f : frame->findings)
        if (f.finding.kind == gq::find::Kind::Loss) {
            gq::mend::Mend m;
            m.region = gq::grown(f.finding.region, 4, frame->geometry.stored);
            m.method = gq::mend::methodFor(m.region);
            w.mendWork().add(m, "outline");
            break;
        }
    shoot(w, out, "rebuild");
    QTest::keyClick(&w, Qt::Key_D);
    const auto lasso = points(w, {{0.25, 0.2}, {0.5, 0.22}, {0.48, 0.5}, {0.22, 0.48}});
    QTest::mousePress(&w.bench(), Qt::LeftButton, {}, lasso.front());
    for (size_t i = 1; i < lasso.size(); ++i)
        for (int k = 1; k <= 6; ++k)
            QTest::mouseMove(&w.bench(), lasso[i - 1] + (lasso[i] - lasso[i - 1]) * k / 6);
    QTest::mouseRelease(&w.bench(), Qt::LeftButton, {}, lasso.back());
    settle(w);
    shoot(w, out, "sift");
}

void shootAlbum(const fs::path& folder, const QString& out) {
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({folder});
    settle(w);
    w.work().setOrigin(gq::find::Origin::Print);
    w.setStage(Stage::Find);
    settle(w);
    QTest::keyClick(&w, Qt::Key_F, Qt::ControlModifier);
    settle(w);
    shoot(w, out, "album");
    mendByHand(w, out);
}

}  // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    if (argc < 3) {
        qCritical("usage: gq_shots DEMO FOLDER [cloud-watch|roll-7|keepers-album]");
        return 2;
    }
    applyTheme(true);
    QTemporaryDir temporary;
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, temporary.path());
    const fs::path scratch = temporary.path().toStdString(), demo = argv[1];
    const std::pair<const char*, void (*)(const fs::path&, const QString&)> all[]{
        {"cloud-watch", shootCloudWatch}, {"roll-7", shootRoll}, {"keepers-album", shootAlbum}};
    for (const auto& [name, shootThem] : all)
        if (argc == 3 || QString(name) == argv[3]) shootThem(linked(demo, scratch, name), argv[2]);
    return 0;
}
