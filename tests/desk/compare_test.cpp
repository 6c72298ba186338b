// Before and after: side by side, and what changed. Marks are hidden.
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

class Comparing : public testkit::BenchTest {
  protected:
    void SetUp() override {
        BenchTest::SetUp();
        press(w(), Qt::Key_Q);
    }
    void mendAll() {
        press(w(), Qt::Key_F, Qt::ControlModifier);
        press(w(), Qt::Key_M, Qt::ControlModifier);
        ASSERT_GE(frame()->mends.size(), kSpots.size());
    }
    QImage drawn() { return bench().grab().toImage(); }
    /// The place of the picture before that stands for a place of the one after.
    QPoint leftOf(QPoint right) { return right - QPoint(int(bench().sheet().left()), 0); }
    /// How much darker a place is drawn than 30 picture pixels beside it.
    int dip(const QImage& image, QPoint at) {
        const QPoint beside(int(30 * bench().zoom()), 0);
        return qGray(image.pixel(at + beside)) - qGray(image.pixel(at));
    }
};

TEST_F(Comparing, SideBySideShowsASpotBeforeAndItsPlaceAfter) {
    mendAll();
    press(w(), Qt::Key_Y);
    EXPECT_EQ(bench().comparing(), Compare::Beside);
    const QImage image = drawn();
    for (const auto& spot : kSpots) {
        const QPoint after = onBench(w(), spot.at);
        ASSERT_GT(after.x(), bench().width() / 2);
        EXPECT_GT(dip(image, leftOf(after)), 9);
        EXPECT_LT(std::abs(dip(image, after)), 5);
    }
    press(w(), Qt::Key_Y);
    EXPECT_EQ(bench().comparing(), Compare::None);
    EXPECT_EQ(bench().sheet(), QRectF(bench().rect()));
}

TEST_F(Comparing, SideBySideBothAreMagnifiedAndMovedByEither) {
    press(w(), Qt::Key_Y);
    const PointF spot = kSpots[1].at;
    const QPoint left = leftOf(onBench(w(), spot));
    QWheelEvent e(left, bench().mapToGlobal(left), {}, {0, 1200}, Qt::NoButton, Qt::NoModifier,
                  Qt::NoScrollPhase, false);
    QApplication::sendEvent(&bench(), &e);
    settle(w());
    EXPECT_GT(bench().zoom(), 1);
    EXPECT_LE((leftOf(onBench(w(), spot)) - left).manhattanLength(), 2);
    EXPECT_GT(dip(drawn(), left), 9) << "the spot lies under the pointer still";
    const QPoint by(-40, 20);
    QTest::mousePress(&bench(), Qt::MiddleButton, {}, left);
    QTest::mouseMove(&bench(), left + by);
    QTest::mouseRelease(&bench(), Qt::MiddleButton, {}, left + by);
    settle(w());
    EXPECT_LE((leftOf(onBench(w(), spot)) - left - by).manhattanLength(), 2);
}

TEST_F(Comparing, AStrokeOnThePictureBeforeMendsThePlaceItStandsFor) {
    press(w(), Qt::Key_Y);
    press(w(), Qt::Key_T);
    bench().setToolSize(34);
    const QPoint spot = leftOf(onBench(w(), kSpots[1].at));
    QTest::mouseClick(&bench(), Qt::LeftButton, {}, spot);
    settle(w());
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_LT(cv::norm(frame()->mends[0].mend.region.centre() - kSpots[1].at), 4);
    // A drag that runs over into the other half goes on where it was begun.
    const QPoint from = leftOf(onBench(w(), {1000, 600}));
    QTest::mousePress(&bench(), Qt::LeftButton, {}, from);
    for (int x = 0; x <= 60; x += 10) QTest::mouseMove(&bench(), from + QPoint(x, 0));
    QTest::mouseRelease(&bench(), Qt::LeftButton, {}, from + QPoint(60, 0));
    settle(w());
    ASSERT_EQ(frame()->mends.size(), 2u);
    EXPECT_NEAR(frame()->mends[1].mend.region.box.width, 60 / bench().zoom() + 34, 12);
}

TEST_F(Comparing, WhatChangedIsBlackButForTheMends) {
    mendAll();
    press(w(), Qt::Key_W, Qt::ShiftModifier);
    const QImage image = drawn();
    const QPoint tl = onBench(w(), {0, 0}), br = onBench(w(), {1200, 800});
    int changed = 0, inside = 0;
    for (int y = tl.y() + 40; y < br.y() - 2; ++y)  // below what is written in the corner
        for (int x = tl.x() + 2; x < br.x() - 2; ++x) {
            if (qGray(image.pixel(x, y)) == 0) continue;
            ++changed;
            const PointF at = bench().toStored(QPointF(x, y));
            for (const auto& m : frame()->mends)
                if (grown(m.mend.region, 8, testkit::kFrame).box.contains(Point(at))) {
                    ++inside;
                    break;
                }
        }
    EXPECT_GT(changed, 100);
    EXPECT_EQ(inside, changed) << "nothing but the mends has changed";
    for (const auto& spot : kSpots) EXPECT_GT(qGray(image.pixel(onBench(w(), spot.at))), 100);
    press(w(), Qt::Key_W);
    EXPECT_EQ(bench().comparing(), Compare::Wipe) << "one way of comparing at a time";
}

}  // namespace
}  // namespace gq::desk
