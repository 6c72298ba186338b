// The frames of a series as a list: taken out, put in order, and files that went astray.
#include <QFileDialog>
#include <QLineEdit>
#include <QTimer>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

namespace fs = std::filesystem;
using testkit::BenchTest;
using testkit::clickButton;
using testkit::kFrame;
using testkit::press;
using testkit::settle;
using testkit::windowOn;

class GatheredFiles : public BenchTest {
  protected:
    const std::vector<series::FramePtr>& frames() { return window->document().now()->frames; }
    ContactSheet& sheet() { return *window->findChild<ContactSheet*>(); }
    void clickFrame(int row) {
        const QRect cell = sheet().visualRect(sheet().model()->index(row, 0));
        QTest::mouseClick(sheet().viewport(), Qt::LeftButton, {}, cell.center());
        settle(w());
    }
    void run(const char* words) {
        for (auto* action : window->findChildren<QAction*>())
            if (action->text() == words) action->trigger();
        settle(w());
    }
    QString amiss() {
        return window->findChild<SeriesPanel*>()->findChild<QLabel*>("look")->text();
    }
    /// Answers the dialog that a click is about to open.
    void answerWith(const fs::path& folder) {
        QTimer::singleShot(200, &w(), [folder] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            ASSERT_NE(dialog, nullptr);
            dialog->findChild<QLineEdit*>()->setText(QString::fromStdString(folder.string()));
            QTest::keyClick(dialog, Qt::Key_Return);
        });
    }
};

TEST_F(GatheredFiles, DeleteOnTheContactSheetTakesAFrameOutAndUndoBringsItBack) {
    const auto taken = frames()[1];
    series::Frame shielded = *taken;
    find::Guides guides;
    guides.shield = Mask(kFrame / series::kGuideScale, CV_8U, cv::Scalar(255));
    shielded.guides = std::make_shared<const find::Guides>(guides);
    window->document().commit(window->document().now()->with(shielded), "paint");
    clickFrame(1);
    QTest::keyClick(&sheet(), Qt::Key_Delete);
    settle(w());
    ASSERT_EQ(frames().size(), 2u);
    EXPECT_EQ(sheet().model()->rowCount(), 2);
    EXPECT_EQ(frame()->name(), "A-3") << "the next one is looked at";
    EXPECT_TRUE(fs::exists(taken->file));
    EXPECT_TRUE(w().notice().contains("A-2 is no longer in the series"));

    window.reset();  // and over a reopening
    window = windowOn(dir / "a");
    ASSERT_EQ(frames().size(), 2u);
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    ASSERT_EQ(frames().size(), 3u);
    EXPECT_EQ(frames()[1]->name(), "A-2");
    ASSERT_TRUE(frames()[1]->guides) << "what was painted comes back with it";
    EXPECT_FALSE(frames()[1]->guides->shield.empty());
}

TEST_F(GatheredFiles, AFrameAddedAnewDoesNotTakeTheNameOfOneThatUndoBringsBack) {
    const std::string id = frames()[2]->id;
    clickFrame(2);
    QTest::keyClick(&sheet(), Qt::Key_Delete);
    settle(w());
    gq::testkit::write(dir / "b.png", gq::testkit::sky({300, 200}), 8);
    window->document().addFrames({dir / "b.png"});
    settle(w());
    ASSERT_EQ(frames().size(), 3u);
    EXPECT_NE(frames()[2]->id, id);
}

TEST_F(GatheredFiles, TheLastFrameStays) {
    for (int i = 0; i < 3; ++i) {
        clickFrame(0);
        QTest::keyClick(&sheet(), Qt::Key_Delete);
        settle(w());
    }
    EXPECT_EQ(frames().size(), 1u);
    EXPECT_TRUE(w().notice().contains("only frame")) << w().notice().toStdString();
}

TEST_F(GatheredFiles, AreLocatedInAnotherFolder) {
    fs::create_directories(dir / "moved");
    fs::rename(dir / "a" / "A-1.jpg", dir / "moved" / "first.jpg");
    fs::rename(dir / "a" / "A-3.jpg", dir / "moved" / "third.jpg");
    window.reset();
    window = windowOn(dir / "a");
    EXPECT_TRUE(amiss().contains("Not where they were: 2 pictures")) << amiss().toStdString();
    EXPECT_TRUE(w().notice().contains("locate it in Gather")) << w().notice().toStdString();
    answerWith(dir / "moved");
    clickButton(w(), "locate");
    EXPECT_TRUE(w().notice().contains("2 of 2 pictures found")) << w().notice().toStdString();
    EXPECT_FALSE(window->findChild<QPushButton*>("locate")->isVisible());
    EXPECT_EQ(frames()[0]->file, dir / "moved" / "first.jpg");
    EXPECT_EQ(window->pictures().original().size(), testkit::kFrame) << "and shown";
}

TEST_F(GatheredFiles, ThatChangedAreToldAndTakenAsTheyAre) {
    gq::testkit::write(dir / "a" / "A-1.jpg", gq::testkit::grass(testkit::kFrame), 8);
    window.reset();
    window = windowOn(dir / "a");
    EXPECT_TRUE(amiss().contains("Changed since then: 1 picture")) << amiss().toStdString();
    clickButton(w(), "takeAsTheyAre");
    EXPECT_TRUE(amiss().isEmpty());
    EXPECT_EQ(window->pictures().original().size(), testkit::kFrame);
}

TEST_F(GatheredFiles, ThatChangeWhileTheyAreOpenAreShownAnew) {
    const double before = cv::mean(window->pictures().original())[0];
    gq::testkit::write(dir / "a" / "A-1.jpg", gq::testkit::grass(testkit::kFrame), 8);
    gq::testkit::write(dir / "b.png", gq::testkit::sky({300, 200}), 8);
    window->document().addFrames({dir / "b.png"});  // files are looked at again
    settle(w());
    clickButton(w(), "takeAsTheyAre");
    EXPECT_LT(cv::mean(window->pictures().original())[0], 0.8 * before) << "grass, no sky";
}

TEST_F(GatheredFiles, AreOrderedByTheMenu) {
    series::Series turned = *window->document().now();
    std::reverse(turned.frames.begin(), turned.frames.end());
    window->document().commit(std::move(turned), "turn");
    run("Order the frames by name");
    EXPECT_EQ(frames()[0]->name(), "A-1");
    EXPECT_EQ(sheet().model()->index(0, 0).data().toString(), "A-1");
}

}  // namespace
}  // namespace gq::desk
