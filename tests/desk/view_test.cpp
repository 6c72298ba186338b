// How the picture is looked at: its light, its room, its place.
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

class View : public testkit::BenchTest {
  protected:
    void light(const char* words) {
        for (auto* b : w().findChildren<QPushButton*>())
            if (b->text() == words && b->isVisible()) {
                QTest::mouseClick(b, Qt::LeftButton);
                settle(w());
                return;
            }
        FAIL() << words << " is not shown";
    }
    int drawnAt(PointF stored) {
        return qGray(bench().grab().toImage().pixel(onBench(w(), stored)));
    }
    /// How much darker a spot is drawn than 60 px beside it.
    int dip(const gq::testkit::Spot& s) { return drawnAt(s.at + PointF(60, 0)) - drawnAt(s.at); }
};

TEST_F(View, LowAndDeepLightDarkenWhatIsShownAndNeverThePicture) {
    press(w(), Qt::Key_2, Qt::ControlModifier);
    press(w(), Qt::Key_Q);
    const Image pixels = testkit::shown(w()).clone();
    const QImage plain = bench().grab().toImage();
    const PointF sky(700, 640);
    const int bright = drawnAt(sky), shadow = dip(kSpots[0]);
    ASSERT_GT(shadow, 5);
    light("Low");
    EXPECT_LT(drawnAt(sky), bright * 3 / 4) << "a bright sky is looked at in less light";
    light("Deep");
    EXPECT_LT(drawnAt(sky), bright);
    EXPECT_GT(dip(kSpots[0]), shadow) << "with the black point raised, shadows are deeper";
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), pixels));
    light("Plain");
    EXPECT_EQ(bench().grab().toImage(), plain);
}

TEST_F(View, IsDraggedWithSpaceWhateverToolIsHeld) {
    press(w(), Qt::Key_T);
    press(w(), Qt::Key_2);
    bench().setFocus();
    const PointF place = bench().toStored(QPointF(bench().rect().center()));
    const QPoint at = onBench(w(), place), by(70, -40);
    QTest::keyPress(&bench(), Qt::Key_Space);
    QTest::mousePress(&bench(), Qt::LeftButton, {}, at);
    QTest::mouseMove(&bench(), at + by / 2);
    QTest::mouseMove(&bench(), at + by);
    QTest::mouseRelease(&bench(), Qt::LeftButton, {}, at + by);
    QTest::keyRelease(&bench(), Qt::Key_Space);
    settle(w());
    EXPECT_LE((onBench(w(), place) - (at + by)).manhattanLength(), 2);
    EXPECT_TRUE(frame()->mends.empty()) << "Space moves the picture, and mends nothing";
    click(place);
    EXPECT_EQ(frame()->mends.size(), 1u) << "without it the tool is held again";
}

TEST_F(View, GoesFromFrameToFrameByKeysAndStaysAtTheEnds) {
    const auto name = [&] { return frame()->name(); };
    EXPECT_EQ(name(), "A-1");
    press(w(), Qt::Key_PageDown);
    EXPECT_EQ(name(), "A-2");
    press(w(), Qt::Key_PageDown);
    press(w(), Qt::Key_PageDown);
    EXPECT_EQ(name(), "A-3");
    press(w(), Qt::Key_PageUp);
    EXPECT_EQ(name(), "A-2");
    press(w(), Qt::Key_PageUp);
    press(w(), Qt::Key_PageUp);
    EXPECT_EQ(name(), "A-1");
}

TEST_F(View, GetsTheRoomOfTheColumnAndThePanelWhenTheyAreHidden) {
    press(w(), Qt::Key_2, Qt::ControlModifier);
    const int narrow = bench().width();
    press(w(), Qt::Key_F3);
    const int wider = bench().width();
    EXPECT_GT(wider, narrow + 60);
    press(w(), Qt::Key_F4);
    EXPECT_GT(bench().width(), wider + 100);
    press(w(), Qt::Key_F3);
    press(w(), Qt::Key_F4);
    EXPECT_EQ(bench().width(), narrow);
}

TEST_F(View, FitsOrIsShownInFullSizeByAKey) {
    const double whole = bench().zoom();
    EXPECT_LT(whole, 1);
    press(w(), Qt::Key_Z);
    EXPECT_DOUBLE_EQ(bench().zoom(), 1);
    press(w(), Qt::Key_Z);
    EXPECT_DOUBLE_EQ(bench().zoom(), whole);
}

}  // namespace
}  // namespace gq::desk
