// The Carry stage beyond the plain carry: as one goes, brackets, charts.
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QLineEdit>
#include <QTimer>

#include "core/carry/chart_file.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::press;
using testkit::settle;

class CarryStage : public testing::Test {
  protected:
    /// A window on dusty frames, the first searched and mended, at the Carry stage.
    void begin(int frames, bool mended = true) {
        testkit::writeSeries(dir / "a", frames);
        window = testkit::windowOn(dir / "a");
        if (mended) {
            press(w(), Qt::Key_F, Qt::ControlModifier);
            press(w(), Qt::Key_M, Qt::ControlModifier);
        }
        press(w(), Qt::Key_4, Qt::ControlModifier);
    }
    MainWindow& w() { return *window; }
    series::FramePtr frame(size_t i) { return w().document().now()->frames[i]; }
    void check(const char* name) {
        auto* box = w().findChild<QCheckBox*>(name);
        ASSERT_TRUE(box && box->isVisible()) << name;
        QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
        settle(w());
    }
    void pick(const char* name, int item) {
        auto* box = w().findChild<QComboBox*>(name);
        ASSERT_TRUE(box && box->isVisible()) << name;
        box->setFocus();
        box->setCurrentIndex(item);
        emit box->activated(item);
        settle(w());
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(CarryStage, WhatIsMendedGoesAlongAtOnceAndComesBackWithUndo) {
    begin(4);
    w().document().setTicked(frame(3)->id, false);
    const size_t mends = frame(0)->mends.size();
    check("carryAsIGo");
    EXPECT_EQ(frame(1)->mends.size(), mends) << "what was there before goes along";
    EXPECT_EQ(frame(2)->mends.size(), mends);
    EXPECT_TRUE(frame(3)->mends.empty()) << "not ticked";
    EXPECT_TRUE(w().findChild<QCheckBox*>("carryAsIGo")->text().contains("2 of 2"));

    press(w(), Qt::Key_3, Qt::ControlModifier);
    w().document().selectMends({frame(0)->mends[0].id});
    press(w(), Qt::Key_Backspace);
    EXPECT_EQ(frame(0)->mends.size(), mends - 1);
    EXPECT_EQ(frame(1)->mends.size(), mends - 1) << "the deletion went along";
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(frame(0)->mends.size(), mends);
    EXPECT_EQ(frame(1)->mends.size(), mends) << "one step takes back both";

    press(w(), Qt::Key_4, Qt::ControlModifier);
    check("carryAsIGo");
    press(w(), Qt::Key_3, Qt::ControlModifier);
    w().document().selectMends({frame(0)->mends[0].id});
    press(w(), Qt::Key_Backspace);
    EXPECT_EQ(frame(1)->mends.size(), mends) << "nothing goes along when it is off";
}

TEST_F(CarryStage, ShadowsOfWhatGoesAlongAreDividedOutOrHealedAsChosen) {
    begin(6);
    check("carryAsIGo");
    const auto divided = [&](size_t i) {
        return std::count_if(frame(i)->mends.begin(), frame(i)->mends.end(), [](const auto& m) {
            return m.mend.method == mend::Method::Unshade && m.mend.shade;
        });
    };
    for (size_t i = 1; i < 6; ++i) EXPECT_GE(divided(i), 2) << "six frames tell of the shadows";
    check("carryAsIGo");
    pick("carryShadows", 1);
    w().document().selectMends({});
    press(w(), Qt::Key_Z, Qt::ControlModifier);  // takes the mends back, here and there
    ASSERT_TRUE(frame(0)->mends.empty());
    press(w(), Qt::Key_M, Qt::ControlModifier);
    check("carryAsIGo");
    EXPECT_FALSE(frame(1)->mends.empty());
    EXPECT_EQ(divided(1), 0);
}

TEST_F(CarryStage, WhatWentAlongIsThereAfterReopening) {
    begin(3);
    check("carryAsIGo");
    const size_t mends = frame(0)->mends.size();
    window.reset();
    window = testkit::windowOn(dir / "a");
    EXPECT_EQ(frame(1)->mends.size(), mends);
    EXPECT_FALSE(w().liveCarry().on());
}

TEST_F(CarryStage, RunAgainItChangesNothingTwiceAndIsDoneAnewAfterUndo) {
    begin(3);
    const auto places = [&](size_t i) {
        std::vector<Rect> out;
        for (const auto& m : frame(i)->mends) out.push_back(m.mend.region.box);
        return out;
    };
    clickButton(w(), "carry");
    const auto second = places(1), third = places(2);
    ASSERT_FALSE(third.empty());
    clickButton(w(), "carry");
    EXPECT_EQ(places(1), second);
    EXPECT_EQ(places(2), third);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(frame(1)->mends.empty());
    EXPECT_TRUE(frame(1)->carried.empty()) << "the board forgets it too";
    press(w(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(places(1), second);
    EXPECT_EQ(frame(2)->carried.size(), frame(0)->mends.size());
}

TEST_F(CarryStage, ReplacingDropsWhatTheReferenceHasNoMore) {
    begin(3);
    clickButton(w(), "carry");
    const size_t all = frame(0)->mends.size();
    ASSERT_EQ(frame(2)->mends.size(), all);
    press(w(), Qt::Key_3, Qt::ControlModifier);
    w().document().selectMends({frame(0)->mends[0].id});
    press(w(), Qt::Key_Backspace);
    ASSERT_EQ(frame(0)->mends.size(), all - 1);
    press(w(), Qt::Key_4, Qt::ControlModifier);
    pick("carryExisting", 0);
    clickButton(w(), "carry");
    EXPECT_EQ(frame(2)->mends.size(), all) << "added to what is there";
    pick("carryExisting", 1);
    clickButton(w(), "carry");
    EXPECT_EQ(frame(2)->mends.size(), all - 1);
}

TEST_F(CarryStage, AGroupIsCarriedAloneByItsName) {
    begin(3);
    w().document().selectMends({frame(0)->mends[1].id});
    w().mendWork().setGroup("under the mast");
    settle(w());
    auto* what = w().findChild<QComboBox*>("carryWhat");
    const int item = what->findText("under the mast", Qt::MatchContains);
    ASSERT_GE(item, 0);
    pick("carryWhat", item);
    EXPECT_TRUE(w().findChild<QPushButton*>("carry")->text().contains("Carry 1 mend to 2 frames"));
    clickButton(w(), "carry");
    for (const size_t i : {1u, 2u}) {
        ASSERT_EQ(frame(i)->carried.size(), 1u);
        EXPECT_EQ(frame(i)->carried[0].fromMend, frame(0)->mends[1].id);
    }
}

TEST_F(CarryStage, ABracketIsCorrectedAlikeInEveryFrame) {
    begin(4);
    w().document().setTicked(frame(1)->id, false);  // it is turned: no bracket has that
    pick("purpose", int(series::Purpose::Bracket));
    EXPECT_EQ(frame(2)->purpose, series::Purpose::Bracket);
    EXPECT_EQ(frame(1)->purpose, series::Purpose::Alone);
    clickButton(w(), "carry");
    for (const size_t i : {2u, 3u}) {
        ASSERT_EQ(frame(i)->mends.size(), frame(0)->mends.size());
        for (size_t m = 0; m < frame(0)->mends.size(); ++m) {
            const auto &from = frame(0)->mends[m].mend, &to = frame(i)->mends[m].mend;
            EXPECT_EQ(from.region.box, to.region.box);
            EXPECT_EQ(from.method, to.method);
            ASSERT_TRUE(from.source && to.source) << "pinned in the reference too";
            EXPECT_EQ(*from.source, *to.source);
        }
    }
    clickButton(w(), "together");
    auto* view = w().findChild<QDialog*>("mergeView");
    ASSERT_NE(view, nullptr);
    const QPixmap merged = view->findChild<QLabel*>("merged")->pixmap();
    QTest::mouseClick(view->findChild<QCheckBox*>(), Qt::LeftButton, {}, QPoint(8, 8));
    EXPECT_NE(merged.toImage(), view->findChild<QLabel*>("merged")->pixmap().toImage())
        << "without the mends the spots are there";
    delete view;
}

TEST_F(CarryStage, ACutPictureTakesPartOnceItIsToldWhereItLies) {
    testkit::writeSeries(dir / "a", 2);
    const Rect part(150, 60, 700, 500);  // shows the first two spots
    const Image worn = gq::testkit::dusty(gq::testkit::sky(testkit::kFrame, 7), testkit::kSpots);
    gq::testkit::write(dir / "a" / "B-1.png", worn(part).clone(), 16);
    window = testkit::windowOn(dir / "a");
    press(w(), Qt::Key_F, Qt::ControlModifier);
    press(w(), Qt::Key_M, Qt::ControlModifier);
    press(w(), Qt::Key_4, Qt::ControlModifier);
    w().document().setCurrent(frame(2)->id);
    settle(w());
    bool refused = false;
    QTimer::singleShot(200, &w(), [&] {
        auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(dialog && dialog->objectName() == "cutDialog");
        auto* left = dialog->findChild<QSpinBox*>("cutLeft");
        left->setFocus();
        left->selectAll();
        QTest::keyClicks(left, "1000");
        auto* take = dialog->findChild<QDialogButtonBox*>()->button(QDialogButtonBox::Ok);
        refused = !take->isEnabled();
        left->selectAll();
        QTest::keyClicks(left, "150");
        auto* top = dialog->findChild<QSpinBox*>("cutTop");
        top->selectAll();
        QTest::keyClicks(top, "60");
        QTest::mouseClick(take, Qt::LeftButton);
    });
    clickButton(w(), "cut");
    EXPECT_TRUE(refused) << "it would reach beyond the sensor";
    EXPECT_EQ(frame(2)->geometry.sensorSize(), testkit::kFrame);
    EXPECT_EQ(frame(0)->geometry.sensor, Size()) << "another size, another place";
    w().document().setCurrent(frame(0)->id);
    settle(w());
    clickButton(w(), "carry");
    ASSERT_EQ(frame(2)->mends.size(), 2u) << w().notice().toStdString();
    for (size_t i = 0; i < 2; ++i) {
        const PointF at = testkit::kSpots[i].at - PointF(part.tl());
        EXPECT_TRUE(std::any_of(frame(2)->mends.begin(), frame(2)->mends.end(), [&](const auto& m) {
            return m.mend.region.contains(Point(at));
        })) << i;
    }
}

TEST_F(CarryStage, APanoramaIsJoinedIntoTheSeriesAndSearched) {
    const Image scene = gq::testkit::stones({1500, 700});
    std::filesystem::create_directories(dir / "p");
    const Size size(640, 480);
    const std::vector<gq::testkit::Spot> dust{{{320, 100}, 9, 0.6f}, {{560, 130}, 8, 0.6f}};
    for (int i = 0; i < 3; ++i)
        gq::testkit::write(
            dir / "p" / ("P-" + std::to_string(i + 1) + ".tif"),
            gq::testkit::dusty(gq::testkit::view(scene, 1200, 0.22 * (i - 1), size), dust), 16);
    window = testkit::windowOn(dir / "p");
    press(w(), Qt::Key_4, Qt::ControlModifier);
    pick("purpose", int(series::Purpose::Panorama));
    const auto joined = dir / "p" / "joined.tif";
    QTimer::singleShot(200, &w(), [joined] {
        auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
        ASSERT_NE(dialog, nullptr);
        dialog->findChild<QLineEdit*>()->setText(QString::fromStdString(joined.string()));
        QTest::keyClick(dialog, Qt::Key_Return);
    });
    clickButton(w(), "together");
    EXPECT_TRUE(std::filesystem::exists(joined));
    ASSERT_EQ(w().document().now()->frames.size(), 4u) << w().notice().toStdString();
    EXPECT_TRUE(w().notice().contains("panorama is in the series")) << w().notice().toStdString();
    EXPECT_FALSE(w().notice().contains("around 0")) << "frames that were not searched before";
    w().document().setCurrent(frame(3)->id);
    settle(w());
    EXPECT_GT(w().pictures().original().cols, 1000) << "wider than any of its frames";
    w().activateWindow();  // the dialog had the keys
    ASSERT_TRUE(QTest::qWaitForWindowActive(&w()));
    press(w(), Qt::Key_F, Qt::ControlModifier);
    EXPECT_TRUE(frame(3)->searched) << w().notice().toStdString();
}

TEST_F(CarryStage, AChartIsSavedAndCarriedToAnotherSeries) {
    begin(6, false);
    const auto chart = dir / "dust.json";
    w().work().saveChart(chart);
    settle(w());
    const auto saved = carry::loadChart(chart);
    ASSERT_TRUE(saved) << saved.error().message();
    EXPECT_EQ(saved->spots.size(), testkit::kSpots.size());

    auto spots = testkit::kSpots;
    spots.erase(spots.begin());  // one was cleaned away, one came
    spots.push_back({{300, 600}, 12, 0.25f});
    std::filesystem::create_directories(dir / "b");
    for (int i = 1; i <= 5; ++i)
        gq::testkit::write(
            dir / "b" / ("B-" + std::to_string(i) + ".jpg"),
            gq::testkit::dusty(gq::testkit::sky(testkit::kFrame, 40u + unsigned(i)), spots), 8);
    window = testkit::windowOn(dir / "b");
    std::vector<std::string> frames;
    for (const auto& f : w().document().now()->frames) frames.push_back(f->id);
    w().work().carryChart(chart, frames);
    settle(w());
    EXPECT_TRUE(w().notice().contains("2 of 3 spots are still there"))
        << w().notice().toStdString();
    EXPECT_TRUE(w().notice().contains("1 new"));
    EXPECT_EQ(frame(0)->mends.size(), 3u) << "the two known ones and the new one";
    for (const auto& m : frame(0)->mends)
        EXPECT_EQ(m.mend.method, mend::Method::Unshade) << "the new one is divided out too";
    press(w(), Qt::Key_4, Qt::ControlModifier);
    EXPECT_EQ(w().board().model()->rowCount(), 3);
}

TEST_F(CarryStage, StoppedHalfWayNothingIsHalfDone) {
    begin(8);
    const auto before = w().document().now();
    QTest::mouseClick(w().findChild<QPushButton*>("carry"), Qt::LeftButton);
    QTest::qWait(120);
    QTest::keyClick(&w(), Qt::Key_Escape);
    settle(w());
    EXPECT_EQ(w().document().now(), before);
    clickButton(w(), "carry");
    EXPECT_FALSE(frame(7)->carried.empty()) << "and it can be done again";
}

TEST_F(CarryStage, AnotherFrameOfTheSceneLendsAPlace) {
    // The same plain seen twice, a little shifted; dust hides the first one's stone.
    std::filesystem::create_directories(dir / "a");
    const Image scene = gq::testkit::stones({1400, 900});
    const Rect first(40, 30, 1200, 800), second(64, 52, 1200, 800);
    const std::vector<gq::testkit::Spot> dust{{{600, 400}, 16, 0.8f}};
    gq::testkit::write(dir / "a" / "A-1.tif", gq::testkit::dusty(scene(first).clone(), dust), 16);
    gq::testkit::write(dir / "a" / "A-2.tif", scene(second).clone(), 16);
    window = testkit::windowOn(dir / "a");
    press(w(), Qt::Key_3, Qt::ControlModifier);
    series::Series s = *w().document().now();
    series::Frame f = *s.frames[0];
    f.mends.push_back({s.nextId++, {disc({600, 400}, 32, testkit::kFrame)}});
    w().document().commit(s.with(f), "mend");
    settle(w());
    const Mask where = gq::testkit::maskOf(dust, testkit::kFrame);
    const Image truth = scene(first).clone();
    const double healed = gq::testkit::psnr(testkit::shown(w()), truth, where);
    w().document().select(frame(0)->mends[0].id);
    press(w(), Qt::Key_F, Qt::ShiftModifier);
    ASSERT_TRUE(frame(0)->mends[0].mend.lent) << w().notice().toStdString();
    EXPECT_EQ(frame(0)->mends[0].mend.lent->frame, "A-2");
    EXPECT_GT(gq::testkit::psnr(testkit::shown(w()), truth, where), healed + 10);
    const Image before = testkit::shown(w()).clone();
    window.reset();
    window = testkit::windowOn(dir / "a");
    EXPECT_TRUE(gq::testkit::equal(testkit::shown(w()), before)) << "kept with the frame";
}

}  // namespace
}  // namespace gq::desk
