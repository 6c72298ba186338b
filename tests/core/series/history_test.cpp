#include "core/series/history.h"

#include <gtest/gtest.h>

#include "core/series/avoided.h"

#include <fstream>

#include "core/series/history_file.h"
#include "core/series/series_folder.h"

#include "tests/testkit/scratch.h"

namespace gq::series {
namespace {

Series three() {
    Series s;
    for (const char* id : {"f0001", "f0002", "f0003"})
        s.frames.push_back(std::make_shared<const Frame>(testkit::frameOf(id, {400, 300})));
    s.reference = "f0001";
    return s;
}

Frame touched(const Frame& f, Id id) {
    Frame out = f;
    mend::Mend m;
    m.region = disc({50, 60}, 7, f.geometry.stored);
    out.mends.push_back({id, m, 0, false});
    return out;
}

TEST(History, UndoesAndRedoesVersions) {
    History h(three());
    h.commit(h.now()->with(touched(*h.now()->frames[1], 7)), "touch");
    EXPECT_EQ(h.now()->frames[1]->mends.size(), 1u);
    EXPECT_EQ(h.undoName(), "touch");
    h.undo();
    EXPECT_TRUE(h.now()->frames[1]->mends.empty());
    EXPECT_FALSE(h.canUndo());
    h.redo();
    EXPECT_EQ(h.now()->frames[1]->mends.size(), 1u);
}

TEST(History, SharesFramesThatDidNotChange) {
    History h(three());
    const auto before = h.now();
    h.commit(before->with(touched(*before->frames[1], 7)), "touch");
    EXPECT_EQ(before->frames[0], h.now()->frames[0]);
    EXPECT_NE(before->frames[1], h.now()->frames[1]);
}

TEST(History, DropsUndoneVersionsOnANewStep) {
    History h(three());
    h.commit(h.now()->with(touched(*h.now()->frames[0], 1)), "a");
    h.undo();
    h.commit(h.now()->with(touched(*h.now()->frames[2], 2)), "b");
    EXPECT_FALSE(h.canRedo());
    EXPECT_TRUE(h.now()->frames[0]->mends.empty());
}

class KeptHistory : public testing::Test {
  protected:
    void save(const History& h, long from = 1) {
        ASSERT_TRUE(saveHistory(dir / "s", h, from));
        ASSERT_TRUE(saveSeries(dir / "s", *h.now()));
    }
    History reopened() {
        const auto now = loadSeries(dir / "s");
        EXPECT_TRUE(now);
        return loadHistory(dir / "s", *now);
    }
    static void touch(History& h, Id id, const std::string& what) {
        h.commit(h.now()->with(touched(*h.now()->frames[id % 3], id)), what);
    }
    testkit::Scratch dir;
};

TEST_F(KeptHistory, UndoesAndRedoesAfterReopening) {
    History h(three());
    for (Id id = 1; id <= 5; ++id) touch(h, id, "step " + std::to_string(id));
    h.undo();
    save(h);
    History again = reopened();
    EXPECT_EQ(again.undoName(), "step 4");
    EXPECT_EQ(again.redoName(), "step 5");
    again.redo();
    EXPECT_EQ(again.now()->frames[2]->mends.size(), 2u);
    for (int i = 0; i < 5; ++i) again.undo();
    EXPECT_FALSE(again.canUndo());
    for (const auto& f : again.now()->frames) EXPECT_TRUE(f->mends.empty());
    touch(again, 9, "other way");
    save(again, again.changedFrom());
    EXPECT_FALSE(reopened().canRedo()) << "undone steps are gone once another was made";
    EXPECT_EQ(reopened().undoName(), "other way");
}

TEST_F(KeptHistory, KeepsTheLastTwoHundredSteps) {
    History h(three());
    for (Id id = 1; id <= 230; ++id) touch(h, id, "step");
    save(h);
    History again = reopened();
    int steps = 0;
    for (; again.canUndo(); ++steps) again.undo();
    EXPECT_EQ(steps, kKeptSteps);
}

TEST_F(KeptHistory, LeavesOutStepsThatDoNotLeadToTheSeries) {
    History h(three());
    touch(h, 1, "a");
    save(h);
    touch(h, 2, "b");
    ASSERT_TRUE(saveHistory(dir / "s", h, 2));  // killed before the series was written
    EXPECT_FALSE(reopened().canUndo());
    EXPECT_EQ(reopened().now()->frames[1]->mends.size(), 1u);
    std::ofstream(dir / "s" / "history" / "00000002.json") << "{\"after\": {\"frames\": [3]}}";
    EXPECT_FALSE(reopened().canUndo()) << "nor is a damaged one believed";
}

TEST(WithFindings, KeepsWhatWasMendedOrLeft) {
    Frame f = testkit::frameOf("f", {400, 300});
    const auto at = [](float x) {
        find::Finding out;
        out.region = disc({x, 100}, 8, {400, 300});
        out.confidence = 0.9f;
        return out;
    };
    Id next = 1;
    f = withFindings(f, {at(50), at(150), at(250)}, next);
    ASSERT_EQ(f.findings.size(), 3u);
    f.findings[0].left = true;
    f.mends.push_back({next++, {disc({150, 100}, 9, {400, 300})}, f.findings[1].id, false});
    const Frame again = withFindings(f, {at(52), at(151), at(252), at(350)}, next);
    EXPECT_EQ(again.findings.size(), 4u) << "one left, one mended, one found anew, one new";
    EXPECT_TRUE(again.findings[0].left);
    EXPECT_EQ(stateOf(again, again.findings[1]), State::Mended);
}

TEST(Avoided, LeavesOutTheFindingAMendCovers) {
    Frame f = testkit::frameOf("f", {400, 300});
    find::Finding a;
    a.region = disc({50, 50}, 8, {400, 300});
    a.confidence = 0.9f;
    f.findings = {{1, a, false}};
    a.region = disc({80, 50}, 8, {400, 300});
    f.findings.push_back({2, a, false});
    a.confidence = 0.1f;
    a.region = disc({120, 50}, 8, {400, 300});
    f.findings.push_back({3, a, false});
    f.mends = {{9, {disc({50, 50}, 10, {400, 300})}, 0, false}};
    const auto avoid = Avoided(f, 0.5f).by(9);
    ASSERT_EQ(avoid.size(), 1u);
    EXPECT_TRUE(avoid[0].contains({80, 50}));
}

TEST(Avoided, HoldsSoftEdgesToo) {
    Frame f = testkit::frameOf("f", {400, 300});
    mend::Mend heal{disc({50, 50}, 10, {400, 300})}, evened = heal;
    heal.softness = 4;
    evened.region = disc({150, 50}, 10, {400, 300});
    evened.method = mend::Method::EvenOut;
    f.mends = {{1, heal, 0, false}, {2, evened, 0, false}};
    const Avoided avoided(f, 0.5f);
    ASSERT_EQ(avoided.by(3).size(), 1u) << "the picture lives on in what is evened out";
    EXPECT_TRUE(avoided.by(3)[0].contains({63, 50}));
    EXPECT_TRUE(avoided.by(1).empty());
    EXPECT_TRUE(avoided.by(3, {70, 0, 40, 100}).empty()) << "out of reach";
}

TEST(Avoided, LeavesHazesOutAsThePictureShowsThrough) {
    Frame f = testkit::frameOf("f", {800, 600});
    find::Finding grain;
    grain.region = disc({100, 100}, 20, {800, 600});
    grain.confidence = 0.9f;
    grain.measures.size = 40;
    find::Finding haze = grain;
    haze.region = disc({500, 300}, 90, {800, 600});
    haze.measures.size = 180;
    f.findings = {{1, grain, false}, {2, haze, false}};
    const auto avoid = Avoided(f, 0.5f).by(0);
    ASSERT_EQ(avoid.size(), 1u);
    EXPECT_TRUE(avoid[0].contains({100, 100}));
}

}  // namespace
}  // namespace gq::series
