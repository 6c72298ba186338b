#include <gtest/gtest.h>

#include <fmt/core.h>

#include <QLabel>
#include <QPushButton>
#include <opencv2/core.hpp>

#include "core/files/picture_writer.h"
#include "desk/ledger/ledger_panel.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using testkit::press;
using testkit::settle;

constexpr int kLine = 330;  ///< row that grit in the gate scratched along the film

/// A roll of three small negatives with one scratch through all of them, searched.
class Roll : public testing::Test {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(dir / "roll");
        for (int i = 1; i <= 3; ++i) {
            Image scan = gq::testkit::sky({900, 600}, std::uint32_t(i));
            scan.rowRange(kLine + i % 2, kLine + i % 2 + 3) += cv::Scalar::all(11000);
            gq::testkit::write(dir / "roll" / ("N-" + std::to_string(i) + ".tif"), scan, 16);
        }
        window = testkit::windowOn(dir / "roll");
        window->work().setOrigin(find::Origin::Negative);
        window->setStage(Stage::Find);
        press(*window, Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        window->document().select(lineIn(0).id);
        settle(*window);
    }
    series::FindingEntry lineIn(size_t frame) {
        for (const auto& e : window->document().now()->frames[frame]->findings)
            if (e.charted && e.finding.kind == find::Kind::Scratch) return e;
        return {};
    }
    bool mendedIn(size_t frame) {
        const auto f = window->document().now()->frames[frame];
        return lineIn(frame).id && f->mendOf(lineIn(frame).id);
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(Roll, ItsLineIsOneFindingMendedOnAllFramesByOneKeyAndOneStep) {
    ASSERT_TRUE(lineIn(0).id && lineIn(1).id && lineIn(2).id);
    const auto* model = window->findChild<QListView*>("ledger")->model();
    int rows = 0;
    for (int i = 0; i < model->rowCount(); ++i)
        rows += model->index(i, 0).data().toString().contains("on 3 frames");
    EXPECT_EQ(rows, 1);
    press(*window, Qt::Key_M);
    for (size_t i = 0; i < 3; ++i) EXPECT_TRUE(mendedIn(i)) << "frame " << i;
    const Image after = testkit::shown(*window);
    const auto tone = [&](int row) { return cv::mean(after.row(row).colRange(100, 800))[1]; };
    EXPECT_NEAR(tone(kLine + 2), tone(kLine - 8), 1500) << "the scratch stood out by 11000";
    press(*window, Qt::Key_Z, Qt::ControlModifier);
    for (size_t i = 0; i < 3; ++i) EXPECT_FALSE(mendedIn(i)) << "frame " << i;
}

TEST_F(Roll, ItsLineIsLeftAndReopenedOnAllFrames) {
    ASSERT_TRUE(lineIn(0).id && lineIn(1).id && lineIn(2).id);
    press(*window, Qt::Key_L);
    for (size_t i = 0; i < 3; ++i) EXPECT_TRUE(lineIn(i).left) << "frame " << i;
    press(*window, Qt::Key_L);
    for (size_t i = 0; i < 3; ++i) EXPECT_FALSE(lineIn(i).left) << "frame " << i;
}

/// Six scans of silver film, which holds infrared back as it does light.
TEST(SilverFilm, WhyInfraredIsNotUsedIsSaidOfEachFrame) {
    gq::testkit::Scratch dir;
    std::filesystem::create_directories(dir / "silver");
    for (int i = 1; i <= 6; ++i) {
        files::LoadedPicture scan;
        scan.picture = {gq::testkit::grass({600, 400}, std::uint32_t(i)), 16};
        cv::extractChannel(scan.picture.pixels, scan.extra, 1);
        ASSERT_TRUE(files::writePicture(dir / "silver" / fmt::format("S-{}.tif", i), scan,
                                        {.format = files::Format::Tiff16}));
    }
    const auto w = testkit::windowOn(dir / "silver");
    w->work().setOrigin(find::Origin::Negative);
    w->setStage(Stage::Find);
    press(*w, Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    const QString said = w->notice();
    for (const char* name : {"S-1", "S-2", "S-3", "S-4"})
        EXPECT_TRUE(said.contains(name)) << said.toStdString();
    EXPECT_EQ(said.count("silver film"), 4) << said.toStdString();
    EXPECT_TRUE(said.contains("and 2 more")) << "and these in the tip";
    EXPECT_TRUE(w->findChild<QLabel*>("notice")->toolTip().contains("S-6"));
}

}  // namespace
}  // namespace gq::desk
