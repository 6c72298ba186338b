// The tools, settings and checks of Mend, by mouse and keys.
#include <QComboBox>
#include <QLabel>
#include <QProgressBar>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using mend::Method;
using testkit::clickButton;
using testkit::kSpots;
using testkit::onBench;
using testkit::press;
using testkit::settle;

class MendStage : public testkit::BenchTest {
  protected:
    void hold(Qt::Key tool) { press(w(), tool); }
    const mend::Mend& last() { return frame()->mends.back().mend; }
    /// A lasso around a place.
    void lasso(PointF c, float r, Qt::KeyboardModifiers keys = {}) {
        drag({c + PointF(-r, -r), c + PointF(r, -r), c + PointF(r, r), c + PointF(-r, r)}, keys);
    }
};

TEST_F(MendStage, APathOfClicksIsSpannedFromEndToEnd) {
    hold(Qt::Key_P);
    bench().setToolSize(20);
    click({200, 600});
    click({400, 650});
    EXPECT_TRUE(frame()->mends.empty()) << "nothing is made before the path ends";
    QTest::mouseDClick(&bench(), Qt::LeftButton, {}, onBench(w(), {600, 600}));
    settle(w());
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_EQ(last().method, Method::Span);
    EXPECT_TRUE(last().region.contains({300, 625}));
    EXPECT_TRUE(last().region.contains({500, 625}));
    EXPECT_FALSE(last().region.contains({400, 600}));
}

TEST_F(MendStage, EscapeDropsAPathThatIsBeingDrawn) {
    hold(Qt::Key_P);
    click({200, 600});
    click({400, 650});
    press(w(), Qt::Key_Escape);
    QTest::mouseDClick(&bench(), Qt::LeftButton, {}, onBench(w(), {600, 600}));
    settle(w());
    EXPECT_TRUE(frame()->mends.empty());
}

TEST_F(MendStage, AnOutlineIsAddedToAndTakenFrom) {
    hold(Qt::Key_O);
    lasso(kSpots[0].at, 30);
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_LT(std::abs(darkness(kSpots[0].at)), 1200);
    const int area = last().region.area();
    lasso(kSpots[0].at + PointF(30, 0), 20, Qt::ShiftModifier);
    EXPECT_EQ(frame()->mends.size(), 1u);
    const int more = last().region.area();
    EXPECT_GT(more, area + 300);
    lasso(kSpots[0].at + PointF(40, 0), 20, Qt::AltModifier);
    EXPECT_LT(last().region.area(), more - 300);
}

TEST_F(MendStage, ALassoAroundSpecksSiftsThemOneByOne) {
    hold(Qt::Key_D);
    lasso(kSpots[0].at, 60);
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_EQ(last().method, Method::Sift);
    slide("Largest", 40);
    slide("Contrast", 3);
    EXPECT_LT(std::abs(darkness(kSpots[0].at)), 1500) << "the speck is gone";
    // Between the speck and the lasso nothing has changed.
    const Rect calm(int(kSpots[0].at.x) + 40, int(kSpots[0].at.y) + 40, 12, 12);
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w())(calm).clone(),
                                   w().pictures().original()(calm).clone()));
}

TEST_F(MendStage, MendingAllIsToldAndStoppedByEscape) {
    press(w(), Qt::Key_F, Qt::ControlModifier);
    QTest::keyClick(&w(), Qt::Key_M, Qt::ControlModifier);
    EXPECT_TRUE(w().findChild<QProgressBar*>()->isVisible());
    QTest::keyClick(&w(), Qt::Key_Escape);
    settle(w());
    EXPECT_TRUE(frame()->mends.empty());
    press(w(), Qt::Key_M, Qt::ControlModifier);
    EXPECT_GE(frame()->mends.size(), kSpots.size()) << "and it can be done again";
}

TEST_F(MendStage, TouchInPaintsThePickedTone) {
    hold(Qt::Key_I);
    bench().setToolSize(30);
    click({900, 600}, Qt::AltModifier);
    EXPECT_TRUE(frame()->mends.empty()) << "picking paints nothing";
    drag({300, 500}, {380, 500});
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_EQ(last().method, Method::TouchIn);
    const auto tone = [&](PointF p) {
        return cv::mean(testkit::shown(w())(Rect(int(p.x) - 4, int(p.y) - 4, 8, 8)))[1];
    };
    EXPECT_NEAR(tone({340, 500}), tone({900, 600}), 900);
}

TEST_F(MendStage, TheBoxChangesMethodStrengthAndOutline) {
    hold(Qt::Key_T);
    bench().setToolSize(34);
    click(kSpots[0].at);
    auto* method = w().findChild<QComboBox*>("method");
    ASSERT_TRUE(method && method->isVisible());
    method->setCurrentIndex(int(Method::Clone));
    emit method->activated(int(Method::Clone));
    settle(w());
    EXPECT_EQ(last().method, Method::Clone);
    slide("Strength", 0);
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), w().pictures().original()))
        << "at no strength nothing is changed";
    const int area = last().region.area();
    press(w(), Qt::Key_BracketRight);
    EXPECT_GT(last().region.area(), area);
    press(w(), Qt::Key_BracketLeft);
    EXPECT_NEAR(last().region.area(), area, area / 20);
    clickButton(w(), "mute");
    EXPECT_TRUE(frame()->mends.back().muted);
}

TEST_F(MendStage, ABoxSelectsManyAndASettingChangesAllOfThem) {
    hold(Qt::Key_T);
    for (const auto& s : kSpots) click(s.at);
    ASSERT_EQ(frame()->mends.size(), 3u);
    drag({{150, 100}, {1000, 500}}, Qt::ShiftModifier);
    EXPECT_EQ(w().document().chosenMends().size(), 3u);
    slide("Softness", 9);
    for (const auto& m : frame()->mends) EXPECT_FLOAT_EQ(m.mend.softness, 9);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_NE(frame()->mends[0].mend.softness, 9) << "one step for all";
    press(w(), Qt::Key_Backspace);
    EXPECT_TRUE(frame()->mends.empty());
}

TEST_F(MendStage, ArrowsNudgeTheSelectedMend) {
    hold(Qt::Key_T);
    click(kSpots[0].at);
    const Rect box = last().region.box;
    QTest::keyClick(&bench(), Qt::Key_Right);
    QTest::keyClick(&bench(), Qt::Key_Down, Qt::ShiftModifier);
    settle(w());
    EXPECT_EQ(last().region.box.tl(), box.tl() + Point(1, 10));
}

TEST_F(MendStage, AnOutlineThatIsTooTightIsSaidAndGrown) {
    hold(Qt::Key_T);
    bench().setToolSize(12);
    bench().setSoftness(0);
    click(kSpots[1].at);
    auto* report = w().findChild<QLabel*>("report");
    ASSERT_TRUE(report && report->isVisible());
    EXPECT_TRUE(report->text().contains("outside") || report->text().contains("still seen"))
        << report->text().toStdString();
    const int area = last().region.area();
    clickButton(w(), "fix");
    EXPECT_TRUE(last().region.area() > area || frame()->mends.size() > 1);
}

TEST_F(MendStage, ASourceIsTurnedByItsKnob) {
    hold(Qt::Key_T);
    bench().setToolSize(34);
    click(kSpots[0].at);
    const auto id = frame()->mends[0].id;
    const Region region = last().region;
    const PointF grip = region.centre() + PointF(w().pictures().patches().at(id)->source);
    drag(grip, grip + PointF(120, 120));
    ASSERT_TRUE(last().source);
    const PointF centre = region.centre() + PointF(*last().source);
    const double zoom = bench().zoom();
    const float out = float(region.box.width) / 2 + float(16 / zoom);
    drag(centre + PointF(out, 0), centre + PointF(0, out));
    EXPECT_NEAR(last().turn.degrees, 90, 8);
}

}  // namespace
}  // namespace gq::desk
