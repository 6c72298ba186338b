// How the window keeps up: times that a hand feels, at the 95th of a hundred, beside their aims.
#include <fmt/core.h>

#include <QScrollBar>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "bench/window/handlers.h"
#include "bench/window/kit.h"
#include "core/files/picture_writer.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/memory.h"
#include "desk/look/theme.h"

namespace {

using namespace gq;
using namespace gq::desk;
namespace fs = std::filesystem;

void tell(const char* what, std::vector<double> times, double aim) {
    std::sort(times.begin(), times.end());
    fmt::print("| {} | {:.1f} | {:.1f} | {:.0f} |\n", what, times[times.size() / 2],
               times[times.size() * 95 / 100], aim);
    std::fflush(stdout);
}

/// A picture of the demo, enlarged to so many megapixels.
fs::path enlarged(const fs::path& demo, const fs::path& folder, double megapixels, int bits) {
    fs::create_directories(folder);
    auto loaded = files::readPicture(demo / "cloud-watch" / "CW-001.jpg");
    const double k = std::sqrt(megapixels / loaded->picture.megapixels());
    cv::resize(loaded->picture.pixels, loaded->picture.pixels, {}, k, k, cv::INTER_CUBIC);
    loaded->picture.bits = bits;
    const fs::path file = folder / (bits == 16 ? "L-1.tif" : "L-1.jpg");
    (void)files::writePicture(
        file, *loaded,
        {.format = bits == 16 ? files::Format::Tiff16 : files::Format::Jpeg, .replace = true});
    return folder;
}

void mendAnywhere(MainWindow& w, int count) {
    series::Series s = *w.document().now();
    series::Frame f = *s.frames[0];
    const Size size = f.geometry.stored;
    for (int i = 0; i < count; ++i) {
        const PointF at(hashUniform(3, i, 0) * float(size.width - 80) + 40,
                        hashUniform(3, i, 1) * float(size.height - 80) + 40);
        f.mends.push_back({s.nextId++, {disc(at, 5 + 6 * hashUniform(3, i, 2), size)}});
    }
    w.document().commit(s.with(f), "mends");
    settle(w);
}

void showMiddle(MainWindow& w) {
    w.setStage(Stage::Mend);
    w.bench().zoomTo(1, QRectF(w.bench().rect()).center());
    settle(w);
}

/// From a click with Touch until its mend is in the shown picture.
void clickToShown(MainWindow& w) {
    showMiddle(w);
    w.bench().setToolSize(18);
    std::vector<double> times;
    const QRect r = w.bench().rect().adjusted(60, 60, -60, -60);
    for (int i = 0; i < 100; ++i) {
        const QPoint at(r.left() + int(hashUniform(4, i, 0) * float(r.width())),
                        r.top() + int(hashUniform(4, i, 1) * float(r.height())));
        bool shown = false;
        const auto seen =
            QObject::connect(&w.pictures(), &Pictures::touched, [&] { shown = true; });
        times.push_back(timed([&] {
            QTest::mouseClick(&w.bench(), Qt::LeftButton, {}, at);
            spin([&] { return shown; }, 1000);
            QCoreApplication::processEvents();  // what changed is drawn
        }));
        QObject::disconnect(seen);
        if (!shown) times.pop_back();  // it chose a mend that was there
        settle(w);
    }
    tell("one speck under the pointer, 24 MP with 200 mends: click to shown", times, 30);
}

/// A 200 x 200 px Heal whose source is dragged: from one preview to the next.
void dragSource(MainWindow& w) {
    showMiddle(w);
    const series::Series before = *w.document().now();
    series::Series s = before;
    series::Frame f = *s.frames[0];
    const Point middle(f.geometry.stored.width / 2, f.geometry.stored.height / 2);
    const series::Id id = s.nextId++;
    f.mends.push_back({id, {disc(PointF(middle), 100, f.geometry.stored)}});
    w.document().commit(s.with(f), "large");
    settle(w);
    std::vector<double> times;
    for (int i = 0; i < 100; ++i) {
        bool shown = false;
        const auto seen =
            QObject::connect(&w.pictures(), &Pictures::touched, [&] { shown = true; });
        times.push_back(timed([&] {
            w.work().setSource(id, {260 + 2 * i, 40 + i}, false);
            spin([&] { return shown; }, 5000);
            QCoreApplication::processEvents();  // what changed is drawn
        }));
        QObject::disconnect(seen);
    }
    w.document().commit(before, "without it");
    settle(w);
    tell("a 200 x 200 px Heal, its source dragged: a preview", times, 33);
}

void panAndZoom(MainWindow& w, const char* what) {
    std::vector<double> times;
    auto& bench = w.bench();
    const QPointF middle = QRectF(bench.rect()).center();
    for (int i = 0; i < 200; ++i)
        times.push_back(timed([&] {
            bench.zoomTo(std::exp2(1.5 * std::sin(i * 0.09)) * 0.4,
                         middle + QPointF(90 * std::sin(i * 0.4), 60 * std::cos(i * 0.3)));
            bench.repaint();
        }));
    tell(what, times, 16);
}

void board(const fs::path& folder) {
    constexpr int kFrames = 300, kMends = 100;
    fs::create_directories(folder);
    const Size size(240, 160);
    for (int i = 0; i < kFrames; ++i) {
        files::LoadedPicture p;
        p.picture = {Image(size, CV_16UC3, cv::Scalar::all(20000 + 100 * i)), 8};
        (void)files::writePicture(folder / fmt::format("B-{:03}.png", i), p,
                                  {.format = files::Format::Png8, .replace = true});
    }
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({folder});
    settle(w);
    series::Series s = *w.document().now();
    series::Frame reference = *s.frames[0];
    for (int m = 0; m < kMends; ++m)
        reference.mends.push_back(
            {s.nextId++, {disc({20 + 2 * float(m), 30 + float(m)}, 6, size)}});
    s = s.with(reference);
    for (int i = 1; i < kFrames; ++i) {
        series::Frame f = *s.frames[size_t(i)];
        for (const auto& m : reference.mends) {
            series::MendEntry own = m;
            own.id = s.nextId++;
            f.carried.push_back({reference.id, m.id, own.id, series::Verdict::Mended, m.mend.region,
                                 mend::contentKey(m.mend)});
            f.mends.push_back(std::move(own));
        }
        s = s.with(std::move(f));
    }
    w.document().commit(s, "carry");
    w.setStage(Stage::Carry);
    settle(w);
    std::vector<double> times;
    auto* across = w.board().horizontalScrollBar();
    auto* down = w.board().verticalScrollBar();
    for (int i = 0; i < 300; ++i) {
        times.push_back(timed([&] {
            across->setValue(across->value() + 97);
            down->setValue((down->value() + 31) % std::max(1, down->maximum()));
            w.board().viewport()->repaint();
        }));
        QCoreApplication::processEvents(QEventLoop::AllEvents, 2);
    }
    tell("board of 300 frames x 100 mends, scrolling", times, 16);
    settle(w);
    handlers("300 frames x 100 mends", w);
}

/// A frame with as many specks as a neglected negative has.
void dusty(const fs::path& demo, const fs::path& folder) {
    const fs::path file = enlarged(demo, folder, 24, 8) / "L-1.jpg";
    auto loaded = files::readPicture(file);
    auto& pixels = loaded->picture.pixels;
    for (int i = 0; i < 5000; ++i)
        cv::circle(pixels,
                   {int(hashUniform(9, i, 0) * float(pixels.cols)),
                    int(hashUniform(9, i, 1) * float(pixels.rows))},
                   2 + int(4 * hashUniform(9, i, 2)), cv::Scalar::all(60000), -1, cv::LINE_AA);
    (void)files::writePicture(file, *loaded, {.format = files::Format::Jpeg, .replace = true});
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({folder});
    settle(w);
    w.work().setOrigin(find::Origin::Negative);
    handlers("one frame with 5000 specks", w);
}

}  // namespace

int main(int argc, char** argv) {
    keepFreedMemory();  // as the program does
    TimedApplication app(argc, argv);
    if (argc < 2) {
        fmt::print(stderr, "gqwindow DEMO-FOLDER [start|mend|large|board|dusty]\n");
        return 2;
    }
    const std::string only = argc > 2 ? argv[2] : "";
    const auto wanted = [&](const char* part) { return only.empty() || only == part; };
    applyTheme(true);
    QTemporaryDir scratch;
    QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, scratch.path());
    const fs::path folder = scratch.path().toStdString();
    fmt::print("| ms | half of them | 95 of 100 | aim |\n|---|---|---|---|\n");
    if (wanted("start")) {
        MainWindow w;
        w.resize(1280, 800);
        const fs::path demo = fs::path(argv[1]) / "cloud-watch";
        const fs::path own = folder / "demo";
        fs::create_directories(own);
        for (const auto& e : fs::directory_iterator(demo))
            if (e.path().extension() == ".jpg")
                fs::create_symlink(fs::absolute(e.path()), own / e.path().filename());
        tell("the demo series: start to a usable window", {timed([&] {
                 w.show();
                 w.open({own});
                 spin([&] { return w.document().isOpen() && w.pictures().frame(); });
             })},
             1000);
        settle(w);
    }
    if (wanted("mend")) {
        MainWindow w;
        w.resize(1280, 800);
        w.show();
        w.open({enlarged(argv[1], folder / "24", 24, 8)});
        settle(w);
        mendAnywhere(w, 200);
        dragSource(w);
        clickToShown(w);
    }
    if (wanted("large")) {
        MainWindow w;
        w.resize(1280, 800);
        w.show();
        w.open({enlarged(argv[1], folder / "100", 100, 16)});
        settle(w);
        mendAnywhere(w, 500);
        w.setStage(Stage::Find);
        panAndZoom(w, "pan and zoom at 100 MP of 16 bits with 500 mends");
        w.work().findOn({w.document().now()->frames[0]->id});
        panAndZoom(w, "the same, workers busy");
        w.jobs().stopShown();
        settle(w);
    }
    if (wanted("board")) board(folder / "board");
    if (wanted("dusty")) dusty(argv[1], folder / "dusty");
    tellHandlers();
    return 0;
}
