#pragma once
#include <gtest/gtest.h>

#include <QElapsedTimer>
#include <QLabel>
#include <QSpinBox>
#include <QTest>
#include <filesystem>

#include "desk/app/main_window.h"
#include "desk/look/theme.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

/// What window tests share: a window on a folder of pictures, and waiting until it is still.
namespace gq::desk::testkit {

/// Works the event loop until nothing is loading, composing or saving.
inline bool settle(MainWindow& w, int seconds = 120) {
    QElapsedTimer t;
    t.start();
    for (int calm = 0; calm < 5;) {
        if (t.elapsed() > seconds * 1000) return false;
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        QThread::msleep(8);
        calm = w.settled() ? calm + 1 : 0;
    }
    return true;
}

inline std::unique_ptr<MainWindow> windowOn(const std::filesystem::path& folder) {
    applyTheme(true);
    auto w = std::make_unique<MainWindow>();
    w->show();
    w->open({folder});
    settle(*w);
    return w;
}

inline QPoint onBench(MainWindow& w, PointF stored) {
    return w.bench().toWidget(stored).toPoint();
}

/// All of the picture as it is shown, with its mends.
inline Image shown(MainWindow& w) {
    const auto& picture = w.pictures().composed();
    return picture.part(Rect({0, 0}, picture.size()));
}
inline void press(MainWindow& w, Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
    QTest::keyClick(&w, key, modifiers);
    settle(w);
}

inline void clickButton(MainWindow& w, const char* name) {
    auto* b = w.findChild<QPushButton*>(name);
    ASSERT_NE(b, nullptr) << name;
    ASSERT_TRUE(b->isVisible() && b->isEnabled()) << name;
    QTest::mouseClick(b, Qt::LeftButton);
    settle(w);
}

/// Three small dusty frames, the second turned; spots in `kSpots`.
inline const std::vector<gq::testkit::Spot> kSpots{
    {{250, 200}, 9, 0.25f}, {{600, 180}, 14, 0.2f}, {{900, 420}, 8, 0.3f}};
inline const Size kFrame(1200, 800);
inline void writeSeries(const std::filesystem::path& folder, int frames = 3) {
    std::filesystem::create_directories(folder);
    for (int i = 1; i <= frames; ++i)
        gq::testkit::write(folder / ("A-" + std::to_string(i) + ".jpg"),
                           gq::testkit::dusty(gq::testkit::sky(kFrame, std::uint32_t(i)), kSpots),
                           8, i == 2 ? Orientation::Turn90 : Orientation::Upright);
}

/// A window on three small frames.
class BenchTest : public testing::Test {
  protected:
    void SetUp() override {
        writeSeries(dir / "a");
        window = windowOn(dir / "a");
    }
    MainWindow& w() { return *window; }
    BenchView& bench() { return window->bench(); }
    series::FramePtr frame() { return window->document().current(); }
    void click(PointF at, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(&bench(), Qt::LeftButton, keys, onBench(w(), at));
        settle(w());
    }
    /// Drags along straight pieces.
    void drag(const std::vector<PointF>& path, Qt::KeyboardModifiers keys = {}) {
        QPoint at = onBench(w(), path.front());
        QTest::mousePress(&bench(), Qt::LeftButton, keys, at);
        for (size_t k = 1; k < path.size(); ++k) {
            const QPoint to = onBench(w(), path[k]);
            for (int i = 1; i <= 6; ++i) QTest::mouseMove(&bench(), at + (to - at) * i / 6);
            at = to;
        }
        QTest::mouseRelease(&bench(), Qt::LeftButton, keys, at);
        settle(w());
    }
    void drag(PointF from, PointF to) { drag({from, to}, {}); }
    /// Sets a value beside its name in the box of a mend.
    void slide(const char* name, int value) {
        for (auto* s : w().findChildren<QSpinBox*>("value"))
            if (s->isVisible() && s->parentWidget()->findChild<QLabel*>()->text() == name) {
                s->setValue(value);
                settle(w());
                return;
            }
        FAIL() << name << " is not shown";
    }
    /// How dark a place is in what is shown, against its surroundings.
    double darkness(PointF at) {
        const Image p = shown(w());
        const Point c(int(at.x), int(at.y));
        return cv::mean(p(Rect(c.x + 40, c.y - 4, 8, 8)))[1] -
               cv::mean(p(Rect(c.x - 4, c.y - 4, 8, 8)))[1];
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

}  // namespace gq::desk::testkit
