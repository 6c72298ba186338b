#include <gtest/gtest.h>

#include <QHelpEvent>
#include <QToolTip>
#include <fstream>

#include "desk/stages/negative_box.h"
#include "sim/film.h"
#include "sim/instrument.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::onBench;
using testkit::press;
using testkit::settle;

/// A folder of two small scanned negatives, colour and silver.
void writeRoll(const std::filesystem::path& folder) {
    std::filesystem::create_directories(folder);
    for (int i = 0; i < 2; ++i) {
        const auto stock = i ? sim::Stock::Silver : sim::Stock::Colour;
        const Image scan =
            sim::scanned(sim::exposed(sim::renderInstrument({900, 600}, 4), stock, 1), stock, 24);
        gq::testkit::write(folder / ("N-" + std::to_string(i + 1) + ".tif"),
                           gq::testkit::dusty(scan, {{{400, 200}, 4, 0.9f}, {{640, 420}, 5, 0.9f}}),
                           16);
    }
}

QSlider* sliderOf(MainWindow& w, const QString& name) {
    for (auto* s : w.findChild<NegativeBox*>()->findChildren<QSlider*>())
        if (s->accessibleName() == name) return s;
    return nullptr;
}

class Negatives : public testing::Test {
  protected:
    void SetUp() override {
        writeRoll(dir / "roll");
        window = testkit::windowOn(dir / "roll");
        window->work().setOrigin(find::Origin::Negative);
        settle(*window);
    }
    series::FramePtr frame() { return window->document().current(); }
    /// Brightness of the middle of what the bench shows.
    int shown() {
        const QImage view = window->bench().grab().toImage();
        const QPoint at = onBench(*window, {200, 120}) * view.devicePixelRatio();
        return view.pixelColor(at).lightness();
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(Negatives, AreShownInvertedByOneClickAndAsScannedByAnother) {
    clickButton(*window, "invertAll");
    for (const auto& f : window->document().now()->frames) EXPECT_TRUE(f->inversion);
    EXPECT_FALSE(window->document().now()->frames[0]->inversion->monochrome);
    EXPECT_TRUE(window->document().now()->frames[1]->inversion->monochrome);
    clickButton(*window, "asScanned");
    EXPECT_FALSE(frame()->inversion);
    press(*window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(frame()->inversion);
}

TEST_F(Negatives, ExposureIsShownWhileItsSliderMovesAndIsOneStep) {
    clickButton(*window, "invertThis");
    const auto before = *frame()->inversion;
    auto* slider = sliderOf(*window, "Exposure");
    ASSERT_NE(slider, nullptr);
    const QPoint handle(slider->width() / 2, slider->height() / 2);
    QTest::mousePress(slider, Qt::LeftButton, {}, handle);
    for (int i = 1; i <= 5; ++i) QTest::mouseMove(slider, handle + QPoint(i * 4, 0));
    EXPECT_GT(frame()->inversion->exposure[1], before.exposure[1]) << "live";
    QTest::mouseRelease(slider, Qt::LeftButton, {}, handle + QPoint(20, 0));
    settle(*window);
    EXPECT_GT(frame()->inversion->exposure[1], before.exposure[1]);
    press(*window, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(*frame()->inversion, before);
}

TEST_F(Negatives, TheBaseIsPickedWithAClickOnBareFilm) {
    clickButton(*window, "pickBase");
    const int before = shown();
    QTest::mouseClick(&window->bench(), Qt::LeftButton, {}, onBench(*window, {400, 12}));
    settle(*window);
    ASSERT_TRUE(frame()->inversion);
    EXPECT_NEAR(frame()->inversion->base[0], 0.78, 0.03);
    EXPECT_NE(shown(), before);
    EXPECT_EQ(window->bench().tool(), Tool::Look);
}

TEST_F(Negatives, AreSearchedOnTheScansOwnValues) {
    clickButton(*window, "invertAll");
    press(*window, Qt::Key_F, Qt::ControlModifier);
    EXPECT_GE(frame()->findings.size(), 2u);
    for (const auto& f : frame()->findings)
        EXPECT_TRUE(f.finding.polarity == find::Polarity::Dark || f.finding.confidence < 0.5f)
            << "gaps between boards are no scratches";
}

TEST(Gather, SuggestsTheSmoothFrameAndTakesTheSuggestion) {
    gq::testkit::Scratch dir;
    std::filesystem::create_directories(dir / "a");
    gq::testkit::write(dir / "a" / "A-1.jpg", gq::testkit::grass({600, 400}), 8);
    gq::testkit::write(dir / "a" / "A-2.jpg", gq::testkit::sky({600, 400}), 8);
    const auto w = testkit::windowOn(dir / "a");
    EXPECT_EQ(w->document().now()->reference, w->document().now()->frames[0]->id);
    clickButton(*w, "takeSuggestion");
    EXPECT_EQ(w->document().now()->reference, w->document().now()->frames[1]->id);
}

TEST(Gather, TakesTheOriginThatTheFilesTell) {
    namespace fs = std::filesystem;
    using find::Origin;
    for (const auto& [file, origin] : {std::pair{"cloud-watch/CW-001.jpg", Origin::Sensor},
                                       {"roll-7/R7-01.tif", Origin::Negative},
                                       {"keepers-album/KA-01.tif", Origin::Print}}) {
        const fs::path from = gq::testkit::demoFolder() / file;
        if (!fs::exists(from)) GTEST_SKIP() << "set GQ_DEMO to the rendered demo (./dev test does)";
        gq::testkit::Scratch dir;
        fs::copy(from, dir.path());
        const auto w = testkit::windowOn(dir.path());
        EXPECT_EQ(w->document().now()->plan.origin, origin) << file;
    }
}

TEST(Gather, NamesEveryFileThatIsLeftOutOrReadInPart) {
    gq::testkit::Scratch dir;
    std::filesystem::create_directories(dir / "a");
    const Image page = gq::testkit::sky({300, 200});
    gq::testkit::write(dir / "a" / "A-1.jpg", page, 8);
    gq::testkit::writePages(dir / "a" / "A-2.tif", {page, page, page});
    for (int i = 3; i < 8; ++i)
        std::ofstream(dir / "a" / ("A-" + std::to_string(i) + ".jpg")) << "damaged";
    const auto w = testkit::windowOn(dir / "a");
    EXPECT_EQ(w->document().now()->frames.size(), 2u);
    for (const auto* told : {"A-2.tif: the file holds 3 pages", "A-3.jpg", "A-4.jpg", "2 more"})
        EXPECT_TRUE(w->notice().contains(told)) << told << w->notice().toStdString();
    EXPECT_TRUE(w->findChild<QLabel*>("notice")->toolTip().contains("A-7.jpg"));
}

TEST(Gather, BringsPrintsInFromTheSimulatedFlatbed) {
    gq::testkit::Scratch dir;
    std::filesystem::create_directories(dir / "in");
    testkit::writeSeries(dir / "a", 1);
    const auto w = testkit::windowOn(dir / "a");
    w->bringInto("flatbed", QString::fromStdString((dir / "in").string()));
    ASSERT_TRUE(settle(*w, 200));
    EXPECT_EQ(w->document().now()->frames.size(), 4u);
    EXPECT_EQ(w->document().now()->frames[0]->name(), "KA-01");
    EXPECT_NEAR(w->document().now()->frames[0]->pixelsPerMm, 600 / 25.4, 0.1);
}

TEST(Why, HoveringAFindingTellsWhyItWasProposed) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 1);
    const auto w = testkit::windowOn(dir / "a");
    w->setStage(Stage::Find);
    settle(*w);
    press(*w, Qt::Key_F, Qt::ControlModifier);
    const QPoint at = onBench(*w, testkit::kSpots[1].at);
    QHelpEvent hover(QEvent::ToolTip, at, w->bench().mapToGlobal(at));
    QApplication::sendEvent(&w->bench(), &hover);
    EXPECT_TRUE(QToolTip::text().contains("above the noise")) << QToolTip::text().toStdString();
    EXPECT_TRUE(QToolTip::text().contains("shadow"));
}

}  // namespace
}  // namespace gq::desk
