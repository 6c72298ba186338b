// The checks that help while mending, and what is shown before a setting is taken.
#include <QLabel>
#include <QPushButton>
#include <QSlider>

#include "desk/bench/tray.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::kSpots;
using testkit::press;
using testkit::settle;

/// The rest that the report waits for before it looks.
bool reported(MainWindow& w) {
    auto* report = w.findChild<QLabel*>("report");
    for (int i = 0; i < 40; ++i) {
        settle(w);
        if (report && report->isVisible() && !report->text().isEmpty()) return true;
        QTest::qWait(50);
    }
    return false;
}

class MendChecks : public testkit::BenchTest {
  protected:
    std::string words() { return w().findChild<QLabel*>("report")->text().toStdString(); }
    std::string fix() { return w().findChild<QPushButton*>("fix")->text().toStdString(); }
    void dragSource(PointF to) {
        const auto& entry = frame()->mends.back();
        const PointF centre = entry.mend.region.centre();
        drag(centre + PointF(w().pictures().patches().at(entry.id)->source), to);
        ASSERT_TRUE(frame()->mends.back().mend.source);
        ASSERT_TRUE(reported(w()));
    }
};

TEST_F(MendChecks, ABlemishThatASourceBringsAlongIsSaidAndMended) {
    const PointF calm(600, 600);
    press(w(), Qt::Key_T);
    bench().setToolSize(34);
    click(calm);
    dragSource(kSpots[1].at);
    EXPECT_GT(darkness(calm), 2500) << "the spot was copied along";
    EXPECT_NE(words().find("still seen"), std::string::npos) << words();
    EXPECT_EQ(fix(), "Mend the rest");
    clickButton(w(), "fix");
    EXPECT_EQ(frame()->mends.size(), 2u);
    EXPECT_LT(std::abs(darkness(calm)), 1500);
}

TEST_F(MendChecks, TheSliderShowsWhatWouldBeSiftedBeforeItIsLetGo) {
    press(w(), Qt::Key_D);
    drag({{190, 140}, {310, 140}, {310, 260}, {190, 260}}, {});
    ASSERT_EQ(frame()->mends.size(), 1u);
    const auto slider = [&](const QString& name) -> ValueSlider* {
        for (auto* s : w().findChildren<ValueSlider*>())
            if (s->isVisible() && s->findChild<QLabel*>()->text() == name) return s;
        return nullptr;
    };
    auto* contrast = slider("Contrast");
    auto* largest = slider("Largest");
    ASSERT_TRUE(contrast && largest);
    largest->findChild<QSlider*>()->setValue(40);
    settle(w());
    auto* handle = contrast->findChild<QSlider*>();
    handle->setSliderDown(true);
    handle->setSliderPosition(40);
    settle(w());
    EXPECT_GT(darkness(kSpots[0].at), 2500) << "too faint to be sifted at this contrast";
    const auto kept = frame()->mends[0].mend.sifting;
    handle->setSliderPosition(3);
    settle(w());
    EXPECT_LT(std::abs(darkness(kSpots[0].at)), 1500) << "shown while the hand still holds it";
    EXPECT_FLOAT_EQ(frame()->mends[0].mend.sifting.contrast, kept.contrast) << "not yet taken";
    handle->setSliderDown(false);
    settle(w());
    EXPECT_FLOAT_EQ(frame()->mends[0].mend.sifting.contrast, 0.03f);
}

/// On a busy picture, where the eye knows a texture again.
class MendChecksOnGrass : public MendChecks {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(dir / "a");
        gq::testkit::write(dir / "a" / "A-1.tif", gq::testkit::grass(testkit::kFrame), 16);
        window = testkit::windowOn(dir / "a");
    }
};

TEST_F(MendChecksOnGrass, TheSameTextureTwiceNearByIsSaidAndAnotherSourceTaken) {
    const PointF at(600, 400);
    press(w(), Qt::Key_T);
    bench().setToolSize(34);
    click(at);
    dragSource(at + PointF(80, 20));
    EXPECT_NE(words().find("twice"), std::string::npos) << words();
    EXPECT_EQ(fix(), "Another");
    const auto near = frame()->mends[0].mend.source;
    clickButton(w(), "fix");
    ASSERT_TRUE(reported(w()));
    EXPECT_NE(frame()->mends[0].mend.source, near);
    EXPECT_EQ(words().find("twice"), std::string::npos) << words();
}

}  // namespace
}  // namespace gq::desk
