// Delivery of raw files and pairs, by mouse and keys.
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <opencv2/imgproc.hpp>

#include "core/files/picture_reader.h"
#include "core/pixels/color.h"
#include "sim/cloud_watch.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

namespace fs = std::filesystem;
using testkit::clickButton;
using testkit::press;
using testkit::settle;

constexpr int kFrames = 4;
constexpr int kPreview = 400;  ///< px of the previews' width that are looked at

/// Small pairs of one dusty camera, found, mended and carried.
class DeliverRaw : public testing::Test {
  protected:
    void SetUp() override {
        ASSERT_TRUE(sim::shootCloudWatch(dir / "s", {.frames = kFrames, .sensorWidth = 900}));
        folder = dir / "s" / "cloud-watch";
        window = testkit::windowOn(folder);
        press(w(), Qt::Key_2, Qt::ControlModifier);
        press(w(), Qt::Key_F, Qt::ControlModifier);
        clickButton(w(), "mendAll");
        press(w(), Qt::Key_4, Qt::ControlModifier);
        clickButton(w(), "carry");
        press(w(), Qt::Key_5, Qt::ControlModifier);
        auto* to = w().findChild<QLineEdit*>("folder");
        to->selectAll();
        QTest::keyClicks(to, QString::fromStdString((dir / "out").string()));
    }
    MainWindow& w() { return *window; }
    /// How much nearer the dust of a delivered frame is to the picture of a sensor without dust,
    /// dB.
    double gained(const std::string& name, const fs::path& delivered) {
        const auto gain = files::readPicture(dir / "s/truth/cloud-watch" / (name + ".gain.png"));
        const auto worn = files::readPicture(folder / (name + ".dng")),
                   out = files::readPicture(delivered);
        EXPECT_TRUE(gain && worn && out) << delivered;
        if (!gain || !worn || !out) return 0;
        // What the raw would be without dust, but for its noise: divided by the true gain.
        const Mask dust = gain->picture.pixels < 65535 * 0.97;
        Image clean = worn->picture.pixels.clone();
        for (int y = 0; y < clean.rows; ++y)
            for (int x = 0; x < clean.cols; ++x)
                for (int c = 0; c < 3; ++c) {
                    auto& v = clean.at<cv::Vec3w>(y, x)[c];
                    v = fromLinear(toLinear(v) * 65535 / gain->picture.pixels.at<ushort>(y, x));
                }
        return gq::testkit::psnr(out->picture.pixels, clean, dust) -
               gq::testkit::psnr(worn->picture.pixels, clean, dust);
    }
    /// How much of the dust's darkness is gone from the preview inside a delivered DNG.
    double previewLightened(const std::string& name, const fs::path& delivered) {
        const auto gain = files::readPicture(dir / "s/truth/cloud-watch" / (name + ".gain.png"));
        const auto worn = files::readThumbnail(folder / (name + ".dng"), kPreview),
                   out = files::readThumbnail(delivered, kPreview);
        EXPECT_TRUE(gain && worn && out) << delivered;
        if (!gain || !worn || !out) return 0;
        Image light;
        cv::resize(gain->picture.pixels, light, worn->size(), 0, 0, cv::INTER_AREA);
        double held = 0, back = 0;
        for (int y = 0; y < light.rows; ++y)
            for (int x = 0; x < light.cols; ++x) {
                const double dust = 1 - light.at<ushort>(y, x) / 65535.0;
                if (dust < 0.03) continue;
                const auto linear = [&](const Image8& p) {
                    return double(toLinear(ushort(p.at<cv::Vec3b>(y, x)[1] * 257)));
                };
                held += dust * linear(*worn) / (1 - dust);
                back += linear(*out) - linear(*worn);
            }
        return back / held;
    }
    gq::testkit::Scratch dir;
    fs::path folder;
    std::unique_ptr<MainWindow> window;
};

TEST_F(DeliverRaw, PairsGiveTheirRawFilesAsTiffsOrAsDngsWithoutTheShadows) {
    QTest::mouseClick(w().findChild<QCheckBox*>("rawToo"), Qt::LeftButton, {}, {8, 8});
    clickButton(w(), "deliver");
    for (int i = 1; i <= kFrames; ++i) {
        const std::string name = "CW-00" + std::to_string(i);
        EXPECT_TRUE(fs::exists(dir / "out" / (name + ".tif")));
        EXPECT_GT(gained(name, dir / "out" / (name + "-raw.tif")), 4) << name;
    }

    fs::remove(folder / "CW-002.dng");
    w().findChild<QComboBox*>("format")->setCurrentIndex(int(files::allFormats().size()));
    clickButton(w(), "deliver");
    double sum = 0, lighter = 0;
    for (const std::string name : {"CW-001", "CW-003", "CW-004"}) {
        sum += gained(name, dir / "out" / (name + ".dng"));
        lighter += previewLightened(name, dir / "out" / (name + ".dng"));
    }
    EXPECT_GT(sum / 3, 6.0) << "mean gain inside the dust, dB";
    EXPECT_GT(lighter / 3, 0.5) << "of what the dust darkens in the file's own preview";
    auto* queue = w().findChild<QListWidget*>("queue");
    ASSERT_EQ(queue->count(), kFrames);
    EXPECT_TRUE(queue->item(0)->text().contains("divided out of the raw samples"))
        << queue->item(0)->text().toStdString();
    EXPECT_TRUE(queue->item(1)->text().contains("no such file"))
        << queue->item(1)->text().toStdString();
    EXPECT_FALSE(fs::exists(dir / "out" / "CW-002.dng"));
}

TEST(Deliver, TheQueueTellsWhatWouldBeWrittenAndLeadsBackToAFrame) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 2);
    const auto w = testkit::windowOn(dir / "a");
    press(*w, Qt::Key_5, Qt::ControlModifier);
    auto* queue = w->findChild<QListWidget*>("queue");
    const auto said = [&](int row) { return queue->item(row)->text(); };
    ASSERT_EQ(queue->count(), 2);
    EXPECT_TRUE(said(0).contains("A-1.tif")) << said(0).toStdString();
    EXPECT_TRUE(said(0).contains("never searched")) << said(0).toStdString();
    press(*w, Qt::Key_F, Qt::ControlModifier);
    press(*w, Qt::Key_5, Qt::ControlModifier);
    EXPECT_TRUE(said(0).contains("3 still open")) << said(0).toStdString();
    fs::create_directories(dir / "a" / "clean");
    gq::testkit::write(dir / "a" / "clean" / "A-2.png", gq::testkit::sky({30, 20}), 8);
    w->findChild<QComboBox*>("format")->setCurrentIndex(2);
    EXPECT_TRUE(said(0).contains("A-1.png")) << said(0).toStdString();
    EXPECT_FALSE(said(0).contains("already"));
    EXPECT_TRUE(said(1).contains("is there already")) << said(1).toStdString();
    clickButton(*w, "deliver");
    EXPECT_TRUE(said(0).contains("done")) << said(0).toStdString();
    EXPECT_TRUE(said(1).contains("not written")) << said(1).toStdString();
    const QPoint second = queue->visualItemRect(queue->item(1)).center();
    QTest::mouseClick(queue->viewport(), Qt::LeftButton, {}, second);
    QTest::mouseDClick(queue->viewport(), Qt::LeftButton, {}, second);
    EXPECT_EQ(w->rail().stage(), Stage::Mend);
    EXPECT_EQ(w->document().current()->name(), "A-2");
}

TEST(Deliver, WritesNoFrameOverAnotherOfItsName) {
    gq::testkit::Scratch dir;
    for (const char* of : {"one", "two"}) {
        fs::create_directories(dir / of);
        gq::testkit::write(dir / of / "a.tif", gq::testkit::sky({300, 200}), 16);
    }
    MainWindow w;
    w.resize(1280, 800);
    w.show();
    w.open({dir / "one" / "a.tif", dir / "two" / "a.tif"});
    settle(w);
    ASSERT_EQ(w.document().now()->frames.size(), 2u);
    press(w, Qt::Key_5, Qt::ControlModifier);
    auto* to = w.findChild<QLineEdit*>("folder");
    to->selectAll();
    QTest::keyClicks(to, QString::fromStdString((dir / "out").string()));
    QTest::mouseClick(w.findChild<QCheckBox*>("replace"), Qt::LeftButton, {}, {8, 8});
    clickButton(w, "deliver");
    EXPECT_TRUE(fs::exists(dir / "out" / "a.tif"));
    const auto said = w.findChild<QListWidget*>("queue")->item(1)->text();
    EXPECT_TRUE(said.contains("goes to the same file")) << said.toStdString();
}

}  // namespace
}  // namespace gq::desk
