// The whole story on the demo series: open, find, mend, carry, compare, export, by mouse and keys.
#include <gtest/gtest.h>

#include <QComboBox>
#include <opencv2/imgproc.hpp>

#include "core/files/content_hash.h"
#include "core/files/picture_reader.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

namespace fs = std::filesystem;
using testkit::clickButton;
using testkit::press;
using testkit::settle;

struct Outcome {
    double worn, mended;  ///< PSNR inside the dust, dB
    int worstOutside;     ///< outside the mends, 16-bit codes
};

Outcome compare(const fs::path& demo, const series::Frame& frame, const fs::path& exported) {
    const auto truth = demo / "truth" / "cloud-watch";
    const auto clean = files::readPicture(truth / (frame.name() + ".clean.jpg")),
               gain = files::readPicture(truth / (frame.name() + ".gain.png")),
               worn = files::readPicture(frame.file), out = files::readPicture(exported);
    EXPECT_TRUE(clean && gain && worn && out);
    const Mask dust = gain->picture.pixels < 65535 * 0.996;
    Mask touched(dust.size(), CV_8U, cv::Scalar(0));
    for (const auto& m : frame.mends)
        if (!m.muted) paint(touched, mend::footprint(m.mend, dust.size()));
    return {gq::testkit::psnr(worn->picture.pixels, clean->picture.pixels, dust),
            gq::testkit::psnr(out->picture.pixels, clean->picture.pixels, dust),
            gq::testkit::worstOutside(out->picture.pixels, worn->picture.pixels, touched)};
}

TEST(Story, ADustySeriesIsCleanedInTheWindow) {
    const fs::path demo = gq::testkit::demoFolder();
    if (!fs::exists(demo / "cloud-watch" / "CW-012.jpg"))
        GTEST_SKIP() << "set GQ_DEMO to the rendered demo (./dev test does)";
    gq::testkit::Scratch dir;
    fs::create_directories(dir / "cloud-watch");
    for (const auto& e : fs::directory_iterator(demo / "cloud-watch"))
        if (e.path().extension() == ".jpg")
            fs::create_symlink(e.path(), dir / "cloud-watch" / e.path().filename());
    std::map<std::string, std::string> sums;
    for (const auto& e : fs::directory_iterator(dir / "cloud-watch"))
        sums[e.path()] = *files::contentHash(e.path());

    auto window = testkit::windowOn(dir / "cloud-watch");
    MainWindow& w = *window;
    ASSERT_EQ(w.document().now()->frames.size(), 12u);

    // Find on the reference by key; the marks are on the picture.
    press(w, Qt::Key_2, Qt::ControlModifier);
    const QImage bare = w.bench().grab().toImage();
    press(w, Qt::Key_F, Qt::ControlModifier);
    EXPECT_NE(w.bench().grab().toImage(), bare);
    EXPECT_GE(w.ledger().model().count(LedgerModel::Show::Open), 20);

    // Walk the ledger, leave one, take it back, mend one, then all.
    press(w, Qt::Key_Period);
    ASSERT_NE(w.document().selected(), 0u);
    const auto first = w.document().selected();
    press(w, Qt::Key_L);
    EXPECT_TRUE(w.document().current()->finding(first)->left);
    press(w, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(w.document().current()->finding(first)->left);
    press(w, Qt::Key_M);
    EXPECT_EQ(w.document().current()->mends.size(), 1u);
    clickButton(w, "mendAll");
    EXPECT_EQ(w.ledger().model().count(LedgerModel::Show::Open), 0);
    EXPECT_GE(w.document().current()->mends.size(), 20u);

    // Compare: holding B shows the picture as it came.
    press(w, Qt::Key_Q);
    const QImage after = w.bench().grab().toImage();
    QTest::keyPress(&w, Qt::Key_B);
    EXPECT_NE(w.bench().grab().toImage(), after);
    QTest::keyRelease(&w, Qt::Key_B);
    EXPECT_EQ(w.bench().grab().toImage(), after);

    // Carry to all, turned ones too.
    press(w, Qt::Key_4, Qt::ControlModifier);
    clickButton(w, "carry");
    EXPECT_EQ(w.board().model()->columnCount(), 11);
    EXPECT_GE(w.board().model()->rowCount(), 20);

    // Deliver as PNG and compare with the truth.
    press(w, Qt::Key_5, Qt::ControlModifier);
    w.findChild<QComboBox*>("format")->setCurrentIndex(int(files::Format::Png8));
    auto* folder = w.findChild<QLineEdit*>("folder");
    folder->selectAll();
    QTest::keyClicks(folder, QString::fromStdString((dir / "out").string()));
    clickButton(w, "deliver");
    double gain = 0;
    for (const auto& f : w.document().now()->frames) {
        const Outcome o = compare(demo, *f, dir / "out" / (f->name() + ".png"));
        EXPECT_EQ(o.worstOutside, 0) << f->name() << ": identical outside the mends";
        EXPECT_GT(o.mended, o.worn) << f->name() << ": better inside the dust";
        gain += o.mended - o.worn;
    }
    EXPECT_GT(gain / 12, 4.0) << "mean gain inside the dust, dB";
    for (const auto& [file, sum] : sums)
        EXPECT_EQ(*files::contentHash(file), sum) << "originals keep their checksum";
}

}  // namespace
}  // namespace gq::desk
