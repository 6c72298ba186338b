// The Carry board over a long series, by keys.
#include <QCheckBox>
#include <QScrollBar>

#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

using series::Verdict;
using testkit::press;
using testkit::settle;

constexpr int kFrames = 120, kMends = 40;
const Size kSmall(160, 120);

/// As after a carry of the first frame's mends to all others; every seventh row needs a look in
/// every tenth frame.
series::Series carriedEverywhere(series::Series s) {
    series::Frame reference = *s.frames[0];
    for (int m = 0; m < kMends; ++m)
        reference.mends.push_back(
            {s.nextId++, {disc({20 + 3 * float(m), 20 + 2 * float(m)}, 5, kSmall)}});
    s = s.with(reference);
    for (int i = 1; i < kFrames; ++i) {
        series::Frame f = *s.frames[size_t(i)];
        for (int m = 0; m < kMends; ++m) {
            series::MendEntry own = reference.mends[size_t(m)];
            const auto from = own.id;
            own.id = s.nextId++;
            own.muted = m % 7 == 0 && i % 10 == 0;
            f.carried.push_back({reference.id, from, own.id,
                                 own.muted ? Verdict::NeedsLook : Verdict::Mended, own.mend.region,
                                 mend::contentKey(own.mend)});
            f.mends.push_back(std::move(own));
        }
        s = s.with(std::move(f));
    }
    return s;
}

class LongBoard : public testing::Test {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(dir / "b");
        for (int i = 0; i < kFrames; ++i)
            gq::testkit::write(dir / "b" / ("B-" + std::to_string(1000 + i) + ".png"),
                               Image(kSmall, CV_16UC3, cv::Scalar::all(20000 + 200 * i)), 8);
        window = testkit::windowOn(dir / "b");
        w().document().commit(carriedEverywhere(*w().document().now()), "carry");
        press(w(), Qt::Key_4, Qt::ControlModifier);
    }
    MainWindow& w() { return *window; }
    CarryBoard& board() { return window->board(); }
    Verdict verdict(int row, int column) {
        return board().board().cell(board().board().index(row, column))->verdict;
    }
    int looks() {
        int n = 0;
        for (const auto& f : w().document().now()->frames)
            for (const auto& c : f->carried) n += c.verdict == Verdict::NeedsLook;
        return n;
    }
    void choose(int row, int column) {
        board().setFocus();
        board().setCurrentIndex(board().board().index(row, column));
        board().scrollTo(board().currentIndex());
        settle(w());
    }
    void key(Qt::Key k, Qt::KeyboardModifiers m = {}) {
        QTest::keyClick(&board(), k, m);
        settle(w());
    }
    gq::testkit::Scratch dir;
    std::unique_ptr<MainWindow> window;
};

TEST_F(LongBoard, HasARowAMendAndAColumnAFrameAndShowsCropsToItsEnd) {
    EXPECT_EQ(board().model()->rowCount(), kMends);
    EXPECT_EQ(board().model()->columnCount(), kFrames - 1);
    choose(kMends - 1, kFrames - 2);
    const QRect cell = board().visualRect(board().currentIndex());
    ASSERT_TRUE(board().viewport()->rect().contains(cell.center()));
    const QImage drawn = board().viewport()->grab(cell).toImage();
    // The crop before, in the cell's left half, shows the last frame's grey.
    const QColor crop = drawn.pixelColor(drawn.width() / 4, drawn.height() / 3);
    EXPECT_NEAR(crop.green(), (20000 + 200 * (kFrames - 1)) / 257, 3);
}

TEST_F(LongBoard, IsNarrowedToTheRowsThatNeedALook) {
    QCheckBox* only = nullptr;
    for (auto* box : w().findChildren<QCheckBox*>())
        if (box->text().contains("need a look")) only = box;
    ASSERT_TRUE(only && only->isVisible());
    QTest::mouseClick(only, Qt::LeftButton, {}, QPoint(8, only->height() / 2));
    settle(w());
    EXPECT_EQ(board().model()->rowCount(), (kMends + 6) / 7);
    choose(0, 9);
    ASSERT_EQ(verdict(0, 9), Verdict::NeedsLook);
    key(Qt::Key_A, Qt::ShiftModifier);
    EXPECT_EQ(board().model()->rowCount(), (kMends + 6) / 7 - 1) << "its row is done with";
}

TEST_F(LongBoard, ACellARowAndAColumnAreAcceptedOrDroppedInOneStepEach) {
    const int all = looks();
    ASSERT_GT(all, 30);
    choose(7, 19);
    ASSERT_EQ(verdict(7, 19), Verdict::NeedsLook);
    key(Qt::Key_A);
    EXPECT_EQ(verdict(7, 19), Verdict::Mended);
    EXPECT_EQ(looks(), all - 1);
    key(Qt::Key_Down);
    EXPECT_EQ(board().currentIndex().row(), 8);
    choose(0, 29);
    key(Qt::Key_X, Qt::ControlModifier);
    const series::Frame column = board().board().frame(29);
    for (const auto& c : column.carried) EXPECT_EQ(c.verdict, Verdict::NotVisible);
    EXPECT_TRUE(column.mends.empty()) << "left alone";
    press(w(), Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(looks(), all - 1) << "one step took the whole column back";
    EXPECT_EQ(verdict(1, 29), Verdict::Mended);
}

TEST_F(LongBoard, EnterOpensTheCellsFrameAtItsMend) {
    choose(11, 57);
    const std::string name = board().board().frame(57).id;
    const auto from = board().board().mend(11);
    key(Qt::Key_Return);
    ASSERT_EQ(w().document().current()->id, name);
    const auto* chosen = w().document().selectedMend();
    ASSERT_NE(chosen, nullptr);
    for (const auto& c : w().document().current()->carried)
        if (c.fromMend == from) {
            EXPECT_EQ(chosen->id, c.mend);
        }
}

}  // namespace
}  // namespace gq::desk
