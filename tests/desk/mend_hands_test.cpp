// Lines followed, polygons, tones, results to choose from, groups, order, copies: by mouse and
// keys.
#include <QApplication>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QTimer>
#include <opencv2/imgproc.hpp>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using mend::Method;
using testkit::clickButton;
using testkit::kFrame;
using testkit::onBench;
using testkit::press;
using testkit::settle;

const PointF kFrom(220, 500), kTo(760, 560), kBlot(950, 250);
constexpr int kBoundary = 660;

/// Two frames with a scratch, a blot, and a darker ground below.
class MendHands : public testkit::BenchTest {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(dir / "a");
        for (std::uint32_t i = 1; i <= 2; ++i) {
            Image p = gq::testkit::sky(kFrame, i);
            cv::line(p, Point(kFrom), Point(kTo), cv::Scalar::all(16000), 3, cv::LINE_AA);
            cv::circle(p, Point(kBlot), 22, cv::Scalar::all(9000), -1, cv::LINE_AA);
            p.rowRange(kBoundary, p.rows) *= 0.45;
            gq::testkit::write(dir / "a" / ("A-" + std::to_string(i) + ".tif"), p, 16);
        }
        window = testkit::windowOn(dir / "a");
    }
    const mend::Mend& last() { return frame()->mends.back().mend; }
    void doubleClick(PointF at, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseDClick(&bench(), Qt::LeftButton, keys, onBench(w(), at));
        settle(w());
    }
    void touch(PointF at, float size = 20) {
        press(w(), Qt::Key_T);
        bench().setToolSize(size);
        click(at);
    }
    /// Opens the mend's menu and takes the entry that starts so.
    void choose(const QString& words) {
        bool taken = false;
        QTimer::singleShot(50, &w(), [&] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (auto* a : menu->actions())
                if (a->text().startsWith(words)) {
                    taken = true;
                    menu->setActiveAction(a);
                    QTest::keyClick(menu, Qt::Key_Return);
                    return;
                }
            menu->close();
        });
        QTest::mouseClick(w().findChild<QPushButton*>("more"), Qt::LeftButton);
        settle(w());
        EXPECT_TRUE(taken) << words.toStdString();
    }
    void group(const QString& name) {
        QTimer::singleShot(150, &w(), [name] {
            auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
            if (!dialog) return;
            dialog->setTextValue(name);
            dialog->accept();
        });
        choose("Group");
    }
};

TEST_F(MendHands, CtrlAndClickFollowsAScratchToBothEnds) {
    press(w(), Qt::Key_P);
    click((kFrom + kTo) * 0.5f, Qt::ControlModifier);
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_EQ(last().method, Method::Span);
    const Rect box = last().region.box;
    EXPECT_NEAR(box.x, kFrom.x, 12);
    EXPECT_NEAR(box.br().x, kTo.x, 12);
    const Point on = (kFrom + kTo) * 0.5f;
    EXPECT_GT(cv::mean(testkit::shown(w())(Rect(on, Size(1, 1))))[1], 30000);
}

TEST_F(MendHands, APolygonIsClosedByADoubleClick) {
    press(w(), Qt::Key_O);
    click({300, 200});
    click({400, 200});
    click({400, 300});
    EXPECT_TRUE(frame()->mends.empty());
    doubleClick({300, 300});
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_NEAR(last().region.area(), 10000, 900);
}

TEST_F(MendHands, CtrlAndClickTakesAllOfASimilarTone) {
    press(w(), Qt::Key_O);
    click(kBlot, Qt::ControlModifier);
    ASSERT_EQ(frame()->mends.size(), 1u);
    EXPECT_NEAR(last().region.area(), 3.14 * 23 * 23, 300);
}

TEST_F(MendHands, ResultsOfARebuildAreShownToChooseFrom) {
    press(w(), Qt::Key_O);
    drag({{500, 200}, {640, 200}, {640, 330}, {500, 330}}, {});
    ASSERT_EQ(last().method, Method::Rebuild);
    const auto buttons = w().findChildren<QPushButton*>("candidate");
    ASSERT_EQ(buttons.size(), 4);
    for (auto* b : buttons) EXPECT_TRUE(b->isVisible() && !b->icon().isNull());
    QTest::mouseClick(buttons[2], Qt::LeftButton);
    settle(w());
    EXPECT_EQ(last().candidate, 2);
    press(w(), Qt::Key_N);
    EXPECT_EQ(last().candidate, 3);
    const QImage drawn = buttons[0]->icon().pixmap(64, 64).toImage();
    press(w(), Qt::Key_BracketRight);
    EXPECT_FALSE(buttons[0]->icon().isNull());
    EXPECT_NE(buttons[0]->icon().pixmap(64, 64).toImage(), drawn) << "of the larger outline";
}

TEST_F(MendHands, AMendThatTakesLongTellsSoAndIsStopped) {
    press(w(), Qt::Key_O);
    for (const PointF at : {PointF(60, 60), {760, 60}, {760, 460}, {60, 460}})
        QTest::mouseClick(&bench(), Qt::LeftButton, {}, onBench(w(), at));
    QTest::mouseDClick(&bench(), Qt::LeftButton, {}, onBench(w(), {60, 460}));
    ASSERT_TRUE(QTest::qWaitFor([&] { return w().jobs().showing(); }, 20000));
    EXPECT_EQ(w().jobs().name(), "Making mends");
    EXPECT_FALSE(w().jobs().busy()) << "other work may begin meanwhile";
    QTest::keyClick(&w(), Qt::Key_Escape);
    settle(w());
    EXPECT_TRUE(w().notice().contains("not all of its mends are made"));
    touch({600, 720}, 12);
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()),
                                   *render::composed(w().pictures().original(), *frame(), 0.5f)))
        << "made with the next change";
}

TEST_F(MendHands, WhatIsMadeOfAFrameIsKeptForComingBack) {
    touch(kBlot, 60);
    const auto made = w().pictures().patches();
    ASSERT_EQ(made.size(), 1u);
    const Image mended = w().pictures().after().levels.front().clone();
    press(w(), Qt::Key_PageDown);
    EXPECT_TRUE(w().pictures().patches().empty());
    press(w(), Qt::Key_PageUp);
    EXPECT_EQ(w().pictures().patches(), made);
    EXPECT_TRUE(gq::testkit::equal(w().pictures().after().levels.front(), mended));
}

TEST_F(MendHands, APathWithShiftIsTheGuideOfARebuild) {
    press(w(), Qt::Key_O);
    drag({{500, kBoundary - 50},
          {620, kBoundary - 50},
          {620, kBoundary + 50},
          {500, kBoundary + 50}},
         {});
    ASSERT_EQ(last().method, Method::Rebuild);
    press(w(), Qt::Key_P);
    click({480, kBoundary}, Qt::ShiftModifier);
    doubleClick({640, kBoundary}, Qt::ShiftModifier);
    ASSERT_EQ(frame()->mends.size(), 1u);
    ASSERT_EQ(last().guides.size(), 1u);
    EXPECT_NEAR(last().guides[0].back().x, 640, 2);
}

TEST_F(MendHands, AMendOverTwoMaterialsIsSplitWhereTheyMeet) {
    press(w(), Qt::Key_T);
    bench().setToolSize(16);
    drag({900, kBoundary - 45}, {900, kBoundary + 45});
    ASSERT_EQ(frame()->mends.size(), 1u);
    choose("Split");
    ASSERT_EQ(frame()->mends.size(), 2u);
    const Rect a = frame()->mends[0].mend.region.box, b = frame()->mends[1].mend.region.box;
    EXPECT_NEAR(std::max(a.y, b.y), kBoundary, 4);
}

TEST_F(MendHands, AGroupIsNamedAndChosenTogether) {
    touch({300, 200});
    touch({500, 200});
    touch({700, 200});
    drag({{250, 150}, {550, 260}}, Qt::ShiftModifier);
    ASSERT_EQ(w().document().chosenMends().size(), 2u);
    group("gulls");
    EXPECT_EQ(frame()->mends[0].group, "gulls");
    EXPECT_EQ(frame()->mends[2].group, "");
    w().document().select(frame()->mends[0].id);
    settle(w());
    choose("Choose all");
    EXPECT_EQ(w().document().chosenMends().size(), 2u);
}

TEST_F(MendHands, OrderIsChangedAndTakenBack) {
    touch({300, 200});
    touch({500, 200});
    const auto first = frame()->mends[0].id, second = frame()->mends[1].id;
    choose("Lay earlier");
    EXPECT_EQ(frame()->mends[0].id, second);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(frame()->mends[0].id, first);
}

TEST_F(MendHands, AMendIsCopiedToTheTickedFrames) {
    touch({300, 200});
    for (const auto& f : w().document().now()->frames) w().document().setTicked(f->id, true);
    choose("Copy");
    const auto other = w().document().now()->frames[1];
    ASSERT_EQ(other->mends.size(), 1u);
    EXPECT_EQ(other->mends[0].mend.region.box, last().region.box);
}

TEST_F(MendHands, AMutedMendIsKeptButNotApplied) {
    touch(kBlot, 60);
    EXPECT_FALSE(gq::testkit::equal(testkit::shown(w()), w().pictures().original()));
    press(w(), Qt::Key_M, Qt::ShiftModifier);
    EXPECT_TRUE(frame()->mends[0].muted);
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), w().pictures().original()));
    press(w(), Qt::Key_M, Qt::ShiftModifier);
    EXPECT_FALSE(frame()->mends[0].muted);
}

}  // namespace
}  // namespace gq::desk
