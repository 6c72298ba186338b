#include <gtest/gtest.h>

#include <QComboBox>
#include <QMenu>

#include "desk/bench/rounds.h"
#include "desk/document/crops.h"
#include "desk/stages/find_settings.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

/// A window in Find on three small dusty frames.
class FindStage : public testing::Test {
  protected:
    void SetUp() override {
        testkit::writeSeries(dir / "a");
        window = testkit::windowOn(dir / "a");
        window->setStage(Stage::Find);
        settle(*window);
    }
    MainWindow& w() { return *window; }
    series::FramePtr frame() { return window->document().current(); }
    void drag(PointF from, PointF to) {
        const QPoint a = onBench(w(), from), b = onBench(w(), to);
        QTest::mousePress(&w().bench(), Qt::LeftButton, {}, a);
        for (int i = 1; i <= 6; ++i) QTest::mouseMove(&w().bench(), a + (b - a) * i / 6);
        QTest::mouseRelease(&w().bench(), Qt::LeftButton, {}, b);
        settle(w());
    }
    /// The surest of what was found at a place, above the line or below it.
    const series::FindingEntry* at(PointF place) {
        const series::FindingEntry* out = nullptr;
        for (const auto& f : frame()->findings)
            if (f.finding.region.contains({int(place.x), int(place.y)}) &&
                (!out || f.finding.confidence > out->finding.confidence))
                out = &f;
        return out;
    }
    bool foundAt(PointF place) {
        const auto* f = at(place);
        return f && series::proposed(*f, w().document().line());
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(FindStage, NothingIsFoundUnderAPaintedShieldAndItSurvivesReopening) {
    w().bench().setToolSize(200);
    press(w(), Qt::Key_S);
    drag({150, 200}, {350, 200});
    press(w(), Qt::Key_Escape);
    press(w(), Qt::Key_F, Qt::ControlModifier);
    EXPECT_FALSE(foundAt(kSpots[0].at));
    EXPECT_TRUE(foundAt(kSpots[1].at));
    window.reset();
    window = testkit::windowOn(dir / "a");
    ASSERT_TRUE(frame()->guides);
    EXPECT_EQ(frame()->guides->shield.at<uchar>(50, 62), 255);
}

TEST_F(FindStage, StrokesOfHeedAddUpAndUndoTakesOneBack) {
    w().bench().setToolSize(120);
    press(w(), Qt::Key_H);
    drag({500, 500}, {700, 500});
    drag({500, 500}, {700, 500});
    EXPECT_EQ(frame()->guides->heed.at<uchar>(125, 150), 255);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(frame()->guides->heed.at<uchar>(125, 150), 128);
    clickButton(w(), "guideInvert");
    EXPECT_EQ(frame()->guides->heed.at<uchar>(125, 150), 127);
    clickButton(w(), "guideClear");
    EXPECT_TRUE(frame()->guides->heed.empty());
}

TEST_F(FindStage, HushMakesASearchBelieveLessWhereItIsPaintedAndUndoBringsItBack) {
    const PointF hushed = kSpots[0].at, other = kSpots[1].at;
    press(w(), Qt::Key_F, Qt::ControlModifier);
    ASSERT_TRUE(at(hushed) && at(other));
    const float before = at(hushed)->finding.confidence, untouched = at(other)->finding.confidence;
    w().bench().setToolSize(120);
    float least = before;
    for (int strokes = 1; strokes <= 2; ++strokes) {  // each of them counts
        press(w(), Qt::Key_J);
        drag(hushed - PointF(60, 0), hushed + PointF(60, 0));
        press(w(), Qt::Key_Escape);
        press(w(), Qt::Key_F, Qt::ControlModifier);
        ASSERT_TRUE(at(hushed)) << "doubted, not shielded";
        EXPECT_LT(at(hushed)->finding.confidence, least) << strokes;
        least = at(hushed)->finding.confidence;
        EXPECT_NEAR(at(other)->finding.confidence, untouched, 1e-3) << "the others are believed";
    }
    for (int i = 0; i < 4; ++i) press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FLOAT_EQ(at(hushed)->finding.confidence, before);
}

TEST_F(FindStage, TheLassoFillsWhatItGoesAround) {
    press(w(), Qt::Key_U);
    clickButton(w(), "guideLasso");
    const QPoint corners[]{onBench(w(), {100, 100}), onBench(w(), {500, 100}),
                           onBench(w(), {500, 400}), onBench(w(), {100, 400})};
    QTest::mousePress(&w().bench(), Qt::LeftButton, {}, corners[0]);
    for (const QPoint& p : corners) QTest::mouseMove(&w().bench(), p);
    QTest::mouseRelease(&w().bench(), Qt::LeftButton, {}, corners[3]);
    settle(w());
    EXPECT_EQ(frame()->guides->bounds.at<uchar>(60, 75), 255);
    EXPECT_EQ(frame()->guides->bounds.at<uchar>(150, 200), 0);
    press(w(), Qt::Key_F, Qt::ControlModifier);
    EXPECT_TRUE(foundAt(kSpots[0].at));
    EXPECT_FALSE(foundAt(kSpots[2].at));
}

TEST_F(FindStage, TheMaskAloneShowsWhiteOnBlack) {
    w().bench().setToolSize(200);
    press(w(), Qt::Key_S);
    drag({300, 300}, {700, 300});
    clickButton(w(), "guideAlone");
    const QImage shown = w().bench().grab().toImage();
    const double k = w().bench().devicePixelRatioF();
    EXPECT_EQ(shown.pixelColor((QPointF(onBench(w(), {400, 300})) * k).toPoint()),
              QColor(Qt::white));
    EXPECT_EQ(shown.pixelColor((QPointF(onBench(w(), {400, 650})) * k).toPoint()),
              QColor(Qt::black));
}

TEST_F(FindStage, TheFilterNarrowsTheLedgerAndBulkActionsActOnIt) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    auto& model = w().ledger().model();
    const auto all = model.listedOpen();
    ASSERT_GE(all.size(), 3u);
    auto* size = w().findChild<QSpinBox*>("filterSize");
    ASSERT_NE(size, nullptr);
    size->setValue(28);
    settle(w());
    const auto large = model.listedOpen();
    EXPECT_LT(large.size(), all.size());
    ASSERT_FALSE(large.empty());
    clickButton(w(), "leaveAll");
    int left = 0;
    for (const auto& f : frame()->findings) left += f.left;
    EXPECT_EQ(left, int(large.size()));
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    for (const auto& f : frame()->findings) EXPECT_FALSE(f.left);
}

TEST_F(FindStage, BulkMendingLeavesOutWhatTheOutputDoesNotShow) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    const size_t open = w().ledger().model().listedOpen().size();
    clickButton(w(), "lookFor");
    auto* settings = w().findChild<FindSettings*>();
    ASSERT_TRUE(settings && settings->isVisible());
    auto* sight = settings->findChild<QComboBox*>("sight");
    QTest::keyClick(sight, Qt::Key_Down);
    QTest::keyClick(sight, Qt::Key_Down);
    settle(w());
    EXPECT_EQ(w().document().now()->sight.use, find::Sight::Use::Print);
    settings->findChild<QSpinBox*>("printWidth")->setValue(40);
    settings->findChild<QSpinBox*>("distance")->setValue(8000);
    settings->hide();
    settle(w());
    const int unseen = w().ledger().model().unseen();
    EXPECT_GT(unseen, 0);
    press(w(), Qt::Key_M, Qt::ControlModifier);
    EXPECT_EQ(frame()->mends.size(), open - size_t(unseen));
}

TEST_F(FindStage, DraggingTheLineShowsItBeforeItIsSet) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    auto* chart = w().findChild<QWidget*>("line");
    const float before = w().document().now()->plan.line;
    QTest::mousePress(chart, Qt::LeftButton, {}, {chart->width() / 2, 20});
    QTest::mouseMove(chart, {chart->width() * 9 / 10, 20});
    EXPECT_FLOAT_EQ(w().document().now()->plan.line, before);
    EXPECT_NEAR(w().document().line(), 0.9, 0.02);
    QTest::mouseRelease(chart, Qt::LeftButton, {}, {chart->width() * 9 / 10, 20});
    settle(w());
    EXPECT_NEAR(w().document().now()->plan.line, 0.9, 0.02);
}

TEST_F(FindStage, RoundsSeeEveryPartOfTheFrame) {
    for (int i = 0; i < 12; ++i) press(w(), Qt::Key_G);
    const Mask& seen = frame()->seen;
    ASSERT_FALSE(seen.empty());
    EXPECT_EQ(cv::countNonZero(seen), int(seen.total()));
    EXPECT_GE(w().bench().zoom(), 0.99 / w().bench().devicePixelRatioF());
}

TEST(CropBox, ShowsAllOfABlotAndTheMiddleOfALineLargeEnoughToBeJudged) {
    const Size picture(2000, 1500);
    const Region stain = disc({700, 600}, 200, picture);
    EXPECT_EQ(cropBox(stain, picture) & stain.box, stain.box);
    const Region hair = stroke({{300, 300}, {500, 420}, {700, 350}}, 4, picture);
    const Rect shown = cropBox(hair, picture);
    EXPECT_LE(shown.width, 160);
    EXPECT_TRUE(hair.contains((shown.tl() + shown.br()) / 2)) << "the line runs through its middle";
    EXPECT_GE(cropBox(disc({5, 5}, 3, picture), picture).width, 36);
    EXPECT_EQ(cropBox(disc({5, 5}, 3, picture), picture).tl(), Point(0, 0));
}

TEST(Rounds, WalkColumnsInZigzagAndComeBack) {
    const Size shown(1000, 600), cell(500, 200);
    std::set<std::pair<int, int>> places;
    PointF at(250, 100);
    for (int i = 0; i < 6; ++i) {
        places.insert({int(at.x), int(at.y)});
        const PointF next = nextRound(shown, cell, at, 1);
        EXPECT_EQ(nextRound(shown, cell, next, -1), at);
        at = next;
    }
    EXPECT_EQ(places.size(), 6u);
    EXPECT_EQ(at, PointF(250, 100));
}

TEST_F(FindStage, ScreenCheckMovesThePictureAndBringsItBack) {
    const QPoint before = onBench(w(), {600, 400});
    QTest::keyClick(&w(), Qt::Key_K);
    QTest::qWait(60);
    EXPECT_NE(onBench(w(), {600, 400}), before);
    QTest::qWait(1000);
    EXPECT_EQ(onBench(w(), {600, 400}), before);
}

TEST_F(FindStage, TheSeriesTiesFindingsToTheirPlaceOnTheSensor) {
    press(w(), Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    int charted = 0;
    for (const auto& f : frame()->findings) charted += f.charted;
    EXPECT_GE(charted, 2);
}

}  // namespace
}  // namespace gq::desk
