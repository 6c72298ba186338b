// Opening, carrying, stopping, saving, and what happens when things go wrong.
#include <gtest/gtest.h>

#include <QComboBox>
#include <QProcess>
#include <fstream>

#include "core/series/series_folder.h"
#include "tests/desk/desk_kit.h"

namespace gq::desk {
namespace {

namespace fs = std::filesystem;
using testkit::clickButton;
using testkit::press;
using testkit::settle;

TEST(Documents, ReopenWithEverythingThatWasDone) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a");
    size_t mends = 0;
    {
        auto w = testkit::windowOn(dir / "a");
        press(*w, Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        press(*w, Qt::Key_M, Qt::ControlModifier);
        mends = w->document().current()->mends.size();
    }
    auto w = testkit::windowOn(dir / "a");
    ASSERT_GE(mends, 3u);
    EXPECT_EQ(w->document().current()->mends.size(), mends);
    EXPECT_FALSE(w->document().current()->findings.empty());
    EXPECT_FALSE(gq::testkit::equal(testkit::shown(*w), w->pictures().original()))
        << "the mends are on the picture";
    press(*w, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(w->document().current()->mends.empty()) << "steps can be taken back still";
    press(*w, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(w->document().current()->mends.size(), mends);
}

TEST(Documents, AKillLosesAtMostTheLastTwoSeconds) {
    for (const int after : {700, 1300, 2200}) {
        gq::testkit::Scratch dir;
        testkit::writeSeries(dir / "a", 1);
        const std::string original = gq::testkit::bytesOf(dir / "a" / "A-1.jpg");
        QProcess scribbler;
        scribbler.start(GQ_SCRIBBLER, {QString::fromStdString((dir / "a").string())});
        // It prints "N milliseconds" for each of its edits.
        std::vector<std::pair<int, long>> edits;
        QElapsedTimer since;
        bool running = false;
        while (!running || since.elapsed() < after) {
            ASSERT_TRUE(scribbler.waitForReadyRead(20000))
                << scribbler.readAllStandardError().toStdString();
            while (scribbler.canReadLine()) {
                const auto parts = scribbler.readLine().trimmed().split(' ');
                edits.emplace_back(parts[0].toInt(), parts[1].toLong());
            }
            if (!running) since.start(), running = true;
        }
        scribbler.kill();  // SIGKILL
        scribbler.waitForFinished();
        const auto s = series::loadSeries(series::seriesFolderFor(dir / "a"));
        ASSERT_TRUE(s) << s.error().message();
        int due = 0;
        for (const auto& [n, at] : edits) {
            if (at < edits.back().second - 2000) due = n;
        }
        EXPECT_GE(int(s->frames[0]->mends.size()), due);
        EXPECT_TRUE(after < 2000 || !s->frames[0]->mends.empty());
        EXPECT_EQ(gq::testkit::bytesOf(dir / "a" / "A-1.jpg"), original);
    }
}

/// A window on dusty frames, the first of them searched and mended.
std::unique_ptr<MainWindow> mendedWindow(const std::filesystem::path& folder, int frames) {
    testkit::writeSeries(folder, frames);
    auto w = testkit::windowOn(folder);
    press(*w, Qt::Key_F, Qt::ControlModifier);
    press(*w, Qt::Key_M, Qt::ControlModifier);
    return w;
}

TEST(Documents, CarryIsOneStepAndReachesTurnedFrames) {
    gq::testkit::Scratch dir;
    auto w = mendedWindow(dir / "a", 4);
    const auto& frames = w->document().now()->frames;
    const auto reference = frames[0]->mends.size();
    w->document().setTicked(frames[3]->id, false);
    press(*w, Qt::Key_4, Qt::ControlModifier);
    clickButton(*w, "carry");
    const auto mended = [&](size_t i) { return w->document().now()->frames[i]->mends.size(); };
    EXPECT_EQ(mended(1), reference) << "the turned frame";
    EXPECT_EQ(mended(2), reference);
    EXPECT_EQ(mended(3), 0u) << "not ticked";
    clickButton(*w, "carry");
    EXPECT_EQ(mended(1), reference) << "again changes nothing twice";
    press(*w, Qt::Key_Z, Qt::ControlModifier);
    press(*w, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(mended(1) + mended(2), 0u);
}

TEST(Documents, ABoardCellIsOpenedAcceptedAndDroppedByKey) {
    gq::testkit::Scratch dir;
    auto w = mendedWindow(dir / "a", 3);
    press(*w, Qt::Key_4, Qt::ControlModifier);
    clickButton(*w, "carry");
    const auto id = w->document().now()->frames[1]->id;
    const auto frame = [&] { return w->document().now()->frame(id); };
    const size_t mends = frame()->mends.size();
    ASSERT_GE(mends, 3u);
    auto& board = w->board();
    QTest::mouseClick(board.viewport(), Qt::LeftButton, {},
                      board.visualRect(board.model()->index(1, 0)).center());
    QTest::keyClick(&board, Qt::Key_X);
    settle(*w);
    EXPECT_EQ(frame()->mends.size(), mends - 1);
    press(*w, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(frame()->mends.size(), mends);

    series::Series muted = *w->document().now();
    series::Frame f = *frame();
    f.mends[1].muted = true;
    f.carried[1].verdict = series::Verdict::NeedsLook;
    w->document().commit(muted.with(f), "needs a look");
    board.setCurrentIndex(board.model()->index(1, 0));
    QTest::keyClick(&board, Qt::Key_A);
    settle(*w);
    EXPECT_FALSE(frame()->mends[1].muted);
    EXPECT_EQ(frame()->carried[1].verdict, series::Verdict::Mended);

    QTest::keyClick(&board, Qt::Key_Return);
    settle(*w);
    EXPECT_EQ(w->document().current()->id, id);
    EXPECT_EQ(w->rail().stage(), Stage::Mend);
    EXPECT_NE(w->document().selectedMend(), nullptr);
}

TEST(Documents, CarryTakesAKindFirstAndTheRestLater) {
    gq::testkit::Scratch dir;
    auto w = mendedWindow(dir / "a", 4);
    press(*w, Qt::Key_T);
    QTest::mouseClick(&w->bench(), Qt::LeftButton, {}, testkit::onBench(*w, {700, 600}));
    settle(*w);
    const auto all = w->document().current()->mends.size();
    press(*w, Qt::Key_4, Qt::ControlModifier);
    const auto pick = [&](const char* name, const QString& words) {
        auto* box = w->findChild<QComboBox*>(name);
        ASSERT_TRUE(box && box->isVisible());
        const int i = box->findText(words, Qt::MatchContains);
        ASSERT_GE(i, 0) << words.toStdString();
        box->setCurrentIndex(i);
        emit box->activated(i);
        settle(*w);
    };
    pick("carryWhat", "shadow");
    clickButton(*w, "carry");
    const auto carried = [&](size_t i) { return w->document().now()->frames[i]->carried.size(); };
    EXPECT_EQ(carried(1), all - 1);
    pick("carryWhere", "not yet");
    EXPECT_FALSE(w->findChild<QPushButton*>("carry")->isEnabled()) << "all frames had a carry";
    pick("carryWhere", "ticked");
    pick("carryWhat", "by hand");
    pick("carryExisting", "add");
    clickButton(*w, "carry");
    EXPECT_EQ(carried(1), all) << "the rest came later, by the same door";
    EXPECT_EQ(carried(3), all);

    auto& board = w->board();
    board.setCurrentIndex(board.model()->index(0, 0));
    QTest::keyClick(&board, Qt::Key_X, Qt::ShiftModifier);
    settle(*w);
    for (const size_t i : {1u, 2u, 3u})
        EXPECT_EQ(w->document().now()->frames[i]->carried[0].mend, 0u) << "the whole row";
    press(*w, Qt::Key_Z, Qt::ControlModifier);
    EXPECT_NE(w->document().now()->frames[3]->carried[0].mend, 0u) << "one step";
}

TEST(Documents, AStoppedSearchChangesNothing) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 6);
    auto w = testkit::windowOn(dir / "a");
    const auto before = w->document().now();
    QTest::keyClick(w.get(), Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(w->jobs().busy());
    QTest::keyClick(w.get(), Qt::Key_Escape);
    settle(*w);
    EXPECT_EQ(w->document().now(), before);
    EXPECT_FALSE(w->jobs().busy());
}

TEST(Documents, AFrameOfAnotherCameraIsRefusedWithTheReason) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 2);
    gq::testkit::write(dir / "a" / "B-1.tif", gq::testkit::sky({300, 200}));
    auto w = testkit::windowOn(dir / "a");
    press(*w, Qt::Key_F, Qt::ControlModifier);
    press(*w, Qt::Key_M, Qt::ControlModifier);
    press(*w, Qt::Key_4, Qt::ControlModifier);
    clickButton(*w, "carry");
    EXPECT_TRUE(w->notice().contains("B-1.tif")) << w->notice().toStdString();
    EXPECT_TRUE(w->document().now()->frames[2]->mends.empty());
    EXPECT_FALSE(w->document().now()->frames[1]->mends.empty());
}

TEST(Documents, DamagedAndVanishedFilesAreNamed) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 3);
    std::ofstream(dir / "a" / "A-0.jpg") << "damaged";
    auto w = testkit::windowOn(dir / "a");
    EXPECT_EQ(w->document().now()->frames.size(), 3u) << "the rest goes on";
    EXPECT_TRUE(w->notice().contains("A-0.jpg"));
    fs::remove(dir / "a" / "A-3.jpg");
    press(*w, Qt::Key_PageDown);
    press(*w, Qt::Key_PageDown);
    EXPECT_TRUE(w->notice().contains("A-3.jpg")) << w->notice().toStdString();
}

TEST(Documents, ASecondWindowIsKeptOut) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 1);
    auto first = testkit::windowOn(dir / "a");
    auto second = testkit::windowOn(dir / "a");
    EXPECT_FALSE(second->document().isOpen());
    EXPECT_TRUE(second->notice().contains("another window"));
}

TEST(Documents, AnotherSeriesInTheWindowTakesNothingFromTheOneBefore) {
    gq::testkit::Scratch dir;
    fs::create_directories(dir / "b");
    gq::testkit::write(dir / "b" / "B-1.tif", gq::testkit::sky({300, 200}));
    auto w = mendedWindow(dir / "a", 2);
    ASSERT_FALSE(w->document().current()->mends.empty());
    const auto first = w->document().current();
    const auto openNow = [&](const char* name) {
        w->open({dir / name});
        settle(*w);
    };
    QTest::keyClick(w.get(), Qt::Key_Z, Qt::ControlModifier);  // not saved yet, mends in the making
    openNow("b");
    ASSERT_EQ(w->document().current()->id, first->id) << "named alike";
    EXPECT_EQ(w->document().current()->name(), "B-1");
    EXPECT_EQ(testkit::shown(*w).size(), Size(300, 200)) << "its own picture is shown";
    EXPECT_TRUE(w->document().current()->findings.empty());
    EXPECT_FALSE(w->notice().contains("mends are made")) << w->notice().toStdString();
    openNow("a");
    EXPECT_EQ(testkit::shown(*w).size(), testkit::kFrame);
    EXPECT_TRUE(w->document().current()->mends.empty()) << "the last step was kept";
    press(*w, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(w->document().current()->mends.size(), first->mends.size());
}

TEST(Documents, ASeriesThatIsAtWorkIsNotLeft) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 3);
    testkit::writeSeries(dir / "b", 1);
    auto w = testkit::windowOn(dir / "a");
    QTest::keyClick(w.get(), Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(w->jobs().busy());
    w->open({dir / "b"});
    EXPECT_TRUE(w->notice().contains("Finding is under way")) << w->notice().toStdString();
    settle(*w);
    EXPECT_EQ(w->document().now()->frames.size(), 3u);
    for (const auto& f : w->document().now()->frames) EXPECT_FALSE(f->findings.empty());
    w->open({dir / "a"});
    EXPECT_TRUE(w->notice().contains("open already")) << w->notice().toStdString();
}

TEST(Documents, DeliveryReplacesNothingUnasked) {
    gq::testkit::Scratch dir;
    testkit::writeSeries(dir / "a", 2);
    auto w = testkit::windowOn(dir / "a");
    fs::create_directories(dir / "a" / "clean");
    std::ofstream(dir / "a" / "clean" / "A-1.tif") << "mine";
    press(*w, Qt::Key_5, Qt::ControlModifier);
    clickButton(*w, "deliver");
    using How = Work::Delivery::State;
    ASSERT_EQ(w->work().queue().size(), 2u);
    EXPECT_EQ(w->work().queue()[0].state, How::Failed);
    EXPECT_EQ(w->work().queue()[1].state, How::Done);
    EXPECT_EQ(gq::testkit::bytesOf(dir / "a" / "clean" / "A-1.tif"), "mine");
}

}  // namespace
}  // namespace gq::desk
