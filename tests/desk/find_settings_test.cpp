// What Find looks for and how its ledger lists it, by mouse and keys.
#include <QAction>
#include <QComboBox>
#include <opencv2/imgproc.hpp>

#include "desk/stages/find_settings.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::clickButton;
using testkit::kSpots;
using testkit::press;
using testkit::settle;

class FindSettingsBox : public testkit::BenchTest {
  protected:
    void SetUp() override {
        BenchTest::SetUp();
        window->setStage(Stage::Find);
        settle(w());
    }
    FindSettings& box() {
        auto* settings = w().findChild<FindSettings*>();
        if (!settings->isVisible()) clickButton(w(), "lookFor");
        return *settings;
    }
    void search() {
        w().findChild<FindSettings*>()->hide();
        press(w(), Qt::Key_F, Qt::ControlModifier);
    }
    /// How many of the three spots are found above the line.
    int found() {
        int n = 0;
        for (const auto& s : kSpots)
            for (const auto& f : frame()->findings)
                if (series::proposed(f, w().document().line()) &&
                    f.finding.region.contains({int(s.at.x), int(s.at.y)})) {
                    ++n;
                    break;
                }
        return n;
    }
};

TEST_F(FindSettingsBox, AKindThatIsNotWantedIsNotFound) {
    search();
    ASSERT_EQ(found(), 3);
    auto* shadows = box().findChild<QCheckBox*>("kind-shadow");
    ASSERT_TRUE(shadows->isChecked());
    QTest::mouseClick(shadows, Qt::LeftButton, {}, QPoint(8, shadows->height() / 2));
    search();
    EXPECT_EQ(found(), 0);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(found(), 3) << "taking back the search brings its findings back";
}

TEST_F(FindSettingsBox, LightMarksOnlyLeavesShadowsOut) {
    using find::Polarity;
    auto* polarity = box().findChild<QComboBox*>("polarity");
    polarity->setFocus();
    QTest::keyClick(polarity, Qt::Key_Down);
    QTest::keyClick(polarity, Qt::Key_Down);
    EXPECT_EQ(w().document().now()->plan.polarities, std::vector{Polarity::Light});
    search();
    EXPECT_EQ(found(), 0);
    polarity = box().findChild<QComboBox*>("polarity");
    QTest::keyClick(polarity, Qt::Key_Up);
    search();
    EXPECT_EQ(found(), 3) << "dark marks only";
}

TEST_F(FindSettingsBox, SizesBoundWhatIsFound) {
    search();
    float largest = 0;
    for (const auto& f : frame()->findings)
        if (f.finding.region.contains({int(kSpots[1].at.x), int(kSpots[1].at.y)}))
            largest = f.finding.measures.size;
    ASSERT_GT(largest, 10);
    box().findChild<QSpinBox*>("largest")->setValue(int(largest) - 2);
    search();
    EXPECT_EQ(found(), 2) << "the largest of the three is left out";
    box().findChild<QSpinBox*>("largest")->setValue(0);
    box().findChild<QSpinBox*>("smallest")->setValue(int(largest) - 2);
    search();
    EXPECT_EQ(found(), 1) << "and here the two others";
}

TEST_F(FindSettingsBox, MoreStrengthListsMore) {
    search();
    const size_t usual = frame()->findings.size();
    for (auto* value : box().findChildren<QSpinBox*>("value")) {
        value->setValue(100);
        break;
    }
    settle(w());
    EXPECT_GT(w().document().now()->plan.strength, 90);
    search();
    EXPECT_GT(frame()->findings.size(), usual);
    EXPECT_EQ(found(), 3);
}

TEST_F(FindSettingsBox, TheLedgerIsSortedAsItsBoxSays) {
    search();
    auto& model = w().ledger().model();
    QComboBox* sort = nullptr;
    for (auto* b : w().findChildren<QComboBox*>())
        if (b->isVisible() && b->findText("by size") >= 0) sort = b;
    ASSERT_NE(sort, nullptr);
    const auto listed = [&](auto value) {
        std::vector<double> out;
        for (int i = 0; i < model.rowCount(); ++i)
            if (model.row(i).finding && !model.row(i).below)
                out.push_back(double(value(*model.row(i).finding)));
        return out;
    };
    const auto falls = [](const std::vector<double>& v) {
        return v.size() >= 3 && std::is_sorted(v.rbegin(), v.rend());
    };
    const auto by = [&](const char* words) {
        sort->setCurrentIndex(sort->findText(words));
        emit sort->activated(sort->currentIndex());
        settle(w());
    };
    by("by size");
    EXPECT_TRUE(falls(listed([](const auto& f) { return f.finding.measures.size; })));
    by("by contrast");
    EXPECT_TRUE(falls(listed([](const auto& f) { return f.finding.measures.contrast; })));
    by("by confidence");
    EXPECT_TRUE(falls(listed([](const auto& f) { return f.finding.confidence; })));
}

TEST_F(FindSettingsBox, AMaskIsSoftenedAtItsEdgesAlone) {
    press(w(), Qt::Key_S);
    bench().setToolSize(160);
    drag({300, 400}, {700, 400});
    const auto at = [&](int x, int y) { return frame()->guides->shield.at<uchar>(y / 4, x / 4); };
    ASSERT_EQ(at(500, 400), 255);
    ASSERT_EQ(at(500, 520), 0);
    clickButton(w(), "guideSoften");
    EXPECT_GT(at(500, 400), 250);
    EXPECT_GT(at(500, 482), 0);
    EXPECT_LT(at(500, 476), 240);
    clickButton(w(), "guideErase");
    drag({500, 400}, {520, 400});
    EXPECT_LT(at(510, 400), 128) << "taken away again";
    EXPECT_GT(at(340, 400), 240);
}

TEST_F(FindSettingsBox, GuidesGoToFramesOfTheSameSensorAsTheyLieOnIt) {
    // Half as large, as cameras also write them.
    Image small;
    cv::resize(gq::testkit::sky(testkit::kFrame, 9), small, {}, 0.5, 0.5, cv::INTER_AREA);
    testkit::writeSeries(dir / "b");
    gq::testkit::write(dir / "b" / "A-9.jpg", small, 8);
    window.reset();
    window = testkit::windowOn(dir / "b");
    window->setStage(Stage::Find);
    ASSERT_EQ(w().document().now()->frames.size(), 4u);
    press(w(), Qt::Key_S);
    bench().setToolSize(160);
    drag({200, 200}, {300, 200});
    for (auto* action : w().findChildren<QAction*>())
        if (action->text() == "Carry the guides to the ticked frames") action->trigger();
    settle(w());
    for (const auto& f : w().document().now()->frames) {
        ASSERT_TRUE(f->guides) << f->id;
        const int scale = f->geometry.stored == testkit::kFrame ? 4 : 8;
        EXPECT_EQ(f->guides->shield.at<uchar>(200 / scale, 250 / scale), 255) << f->id;
        EXPECT_EQ(f->guides->shield.at<uchar>(400 / scale, 250 / scale), 0) << f->id;
    }
}

}  // namespace
}  // namespace gq::desk
