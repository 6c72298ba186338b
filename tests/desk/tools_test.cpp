#include <gtest/gtest.h>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

class Tools : public testkit::BenchTest {};

TEST_F(Tools, AClickWithTheTouchToolMendsASpot) {
    press(w(), Qt::Key_T);
    bench().setToolSize(34);
    EXPECT_GT(darkness(kSpots[0].at), 2500);
    QTest::mouseClick(&bench(), Qt::LeftButton, {}, onBench(w(), kSpots[0].at));
    settle(w());
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_LT(std::abs(darkness(kSpots[0].at)), 900);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(frame()->mends.empty());
    EXPECT_GT(darkness(kSpots[0].at), 2500) << "undone on the picture as well";
    press(w(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(frame()->mends.size(), 1u);
}

TEST_F(Tools, ADragMendsAlongAStroke) {
    press(w(), Qt::Key_T);
    drag({300, 600}, {500, 640});
    ASSERT_EQ(frame()->mends.size(), 1u);
    const Rect box = frame()->mends[0].mend.region.box;
    EXPECT_NEAR(box.width, 200 + bench().toolSize(), 8);
    EXPECT_TRUE(frame()->mends[0].mend.region.contains({400, 620}));
}

TEST_F(Tools, ASourceIsDraggedAndIsTheMendsOwn) {
    press(w(), Qt::Key_T);
    bench().setToolSize(34);
    for (int i = 0; i < 2; ++i) {
        QTest::mouseClick(&bench(), Qt::LeftButton, {}, onBench(w(), kSpots[size_t(i)].at));
        settle(w());
    }
    const auto id = w().document().selectedMend()->id;
    const auto other = frame()->mends[0].id;
    const Point before = w().pictures().patches().at(id)->source;
    const PointF grip = frame()->mend(id)->mend.region.centre() + PointF(before);
    drag(grip, grip + PointF(60, 90));
    ASSERT_TRUE(frame()->mend(id)->mend.source);
    EXPECT_NEAR(cv::norm(*frame()->mend(id)->mend.source - (before + Point(60, 90))), 0, 3);
    EXPECT_FALSE(frame()->mend(other)->mend.source) << "one source moves alone";
    EXPECT_EQ(w().pictures().patches().at(id)->source, *frame()->mend(id)->mend.source);
}

TEST_F(Tools, BackspaceDeletesAndAnotherChangesTheResult) {
    press(w(), Qt::Key_T);
    QTest::mouseClick(&bench(), Qt::LeftButton, {}, onBench(w(), kSpots[1].at));
    settle(w());
    const Image first = testkit::shown(w()).clone();
    press(w(), Qt::Key_N);
    EXPECT_EQ(frame()->mends[0].mend.candidate, 1);
    EXPECT_FALSE(gq::testkit::equal(testkit::shown(w()), first));
    press(w(), Qt::Key_Backspace);
    EXPECT_TRUE(frame()->mends.empty());
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), w().pictures().original()));
}

TEST_F(Tools, TheWheelZoomsAboutThePointerAndSetsTheTool) {
    press(w(), Qt::Key_T);
    press(w(), Qt::Key_1);
    const QPoint at = onBench(w(), {700, 400});
    const auto wheel = [&](Qt::KeyboardModifiers m) {
        QWheelEvent e(at, bench().mapToGlobal(at), {}, {0, 240}, Qt::NoButton, m, Qt::NoScrollPhase,
                      false);
        QApplication::sendEvent(&bench(), &e);
        settle(w());
    };
    const double zoom = bench().zoom();
    const float size = bench().toolSize(), softness = bench().softness();
    wheel(Qt::NoModifier);
    EXPECT_GT(bench().zoom(), zoom * 1.3);
    EXPECT_NEAR((onBench(w(), {700, 400}) - at).manhattanLength(), 0, 3);
    wheel(Qt::ShiftModifier);
    EXPECT_GT(bench().toolSize(), size);
    wheel(Qt::ShiftModifier | Qt::ControlModifier);
    EXPECT_GT(bench().softness(), softness);
    for (const auto& [key, percent] :
         {std::pair{Qt::Key_1, 1.0}, {Qt::Key_2, 2.0}, {Qt::Key_4, 4.0}}) {
        press(w(), key);
        EXPECT_DOUBLE_EQ(bench().zoom(), percent);
    }
}

TEST_F(Tools, RakingLightChangesTheViewAndNeverThePicture) {
    press(w(), Qt::Key_2, Qt::ControlModifier);
    const QImage plain = bench().grab().toImage();
    const Image pixels = testkit::shown(w()).clone();
    press(w(), Qt::Key_R);
    EXPECT_NE(bench().grab().toImage(), plain);
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), pixels));
    press(w(), Qt::Key_R);
    EXPECT_EQ(bench().grab().toImage(), plain);
}

TEST_F(Tools, TheWipeShowsBothSidesAndItsSeamIsDragged) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    press(w(), Qt::Key_M, Qt::ControlModifier);
    ASSERT_FALSE(frame()->mends.empty());
    press(w(), Qt::Key_Q);
    const QImage after = bench().grab().toImage();
    press(w(), Qt::Key_W);
    EXPECT_NE(bench().grab().toImage(), after);
    const QPoint seam(bench().width() / 2, 60);
    QTest::mousePress(&bench(), Qt::LeftButton, {}, seam);
    QTest::mouseMove(&bench(), QPoint(3, 60));
    QTest::mouseRelease(&bench(), Qt::LeftButton, {}, QPoint(3, 60));
    const QImage moved = bench().grab().toImage();
    const QRect right(40, 0, bench().width() - 60, bench().height());
    EXPECT_EQ(moved.copy(right.adjusted(60, 40, 0, 0)), after.copy(right.adjusted(60, 40, 0, 0)));
}

TEST_F(Tools, TheLineMovesFindingsAcrossIt) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    auto& model = w().ledger().model();
    const int open = model.count(LedgerModel::Show::Open), all = open + model.below();
    ASSERT_GE(open, 3);
    auto* line = w().findChild<QWidget*>("line");
    QTest::mouseClick(line, Qt::LeftButton, {}, QPoint(1, 20));
    settle(w());
    EXPECT_EQ(model.count(LedgerModel::Show::Open), all);
    QTest::mouseClick(line, Qt::LeftButton, {}, QPoint(line->width() - 1, 20));
    settle(w());
    EXPECT_LT(model.count(LedgerModel::Show::Open), open + 1);
}

TEST_F(Tools, AllAreLeftAndTakenBackInOneStep) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    auto& model = w().ledger().model();
    const int open = model.count(LedgerModel::Show::Open);
    ASSERT_GE(open, 3);
    press(w(), Qt::Key_L, Qt::ControlModifier);
    EXPECT_EQ(model.count(LedgerModel::Show::Open), 0);
    EXPECT_EQ(model.count(LedgerModel::Show::Left), open);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(model.count(LedgerModel::Show::Open), open);
}

TEST_F(Tools, FontsAndIconsShipInside) {
    for (const char* name : {":/fonts/Inter-Regular.otf", ":/fonts/LICENCE", ":/icons/find.svg",
                             ":/icons/gentle-quill.svg"})
        EXPECT_TRUE(QFile::exists(name)) << name;
    EXPECT_FALSE(icon("carry").isNull());
}

TEST_F(Tools, EveryCommandHasWordsHelpAndNoKeyTwice) {
    QStringList keys;
    for (auto* a : w().findChildren<QAction*>()) {
        if (a->objectName().isEmpty() || a->shortcut().isEmpty()) continue;
        EXPECT_FALSE(a->text().isEmpty());
        EXPECT_FALSE(a->statusTip().isEmpty()) << a->objectName().toStdString();
        EXPECT_FALSE(keys.contains(a->shortcut().toString()))
            << a->shortcut().toString().toStdString();
        keys << a->shortcut().toString();
    }
    EXPECT_GT(keys.size(), 25);
}

}  // namespace
}  // namespace gq::desk
