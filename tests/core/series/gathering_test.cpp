#include "core/series/gathering.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::series {
namespace {

namespace fs = std::filesystem;

class Gathering : public testing::Test {
  protected:
    void SetUp() override {
        fs::create_directories(dir / "a");
        std::vector<fs::path> files;
        for (int i = 1; i <= 4; ++i) {
            files.push_back(dir / "a" / ("A-" + std::to_string(i) + ".png"));
            testkit::write(files.back(), testkit::sky({120, 80}, std::uint32_t(i)), 8);
        }
        std::vector<Error> faults;
        all = makeSeries(files, "A", faults);
        ASSERT_EQ(all.frames.size(), 4u);
    }
    [[nodiscard]] const Frame& frame(int i) const { return *all.frames[size_t(i)]; }
    /// The names of the frames in their order.
    static std::string names(const Series& s) {
        std::string out;
        for (const auto& f : s.frames) out += f->name() + " ";
        return out;
    }
    testkit::Scratch dir;
    Series all;
};

TEST_F(Gathering, AFrameThatIsTakenOutLeavesTheOthersAndItsFile) {
    const Series less = without(all, {frame(1).id});
    EXPECT_EQ(names(less), "A-1 A-3 A-4 ");
    EXPECT_EQ(less.reference, all.reference);
    EXPECT_TRUE(fs::exists(frame(1).file));
}

TEST_F(Gathering, TheNextFrameThatStaysBecomesTheReference) {
    EXPECT_EQ(without(all, {frame(0).id, frame(1).id}).reference, frame(2).id);
    all.reference = frame(3).id;
    EXPECT_EQ(without(all, {frame(3).id}).reference, frame(2).id) << "none comes after it";
}

TEST_F(Gathering, FramesAreOrderedByTimeThoseThatDoNotTellLast) {
    for (const auto& [i, taken] :
         {std::pair{0, "2026:03:02 10:00:00"}, {2, "2026:03:01 10:00:00"}}) {
        Frame f = frame(i);
        f.taken = taken;
        all = all.with(f);
    }
    const Series byTime = ordered(all, Order::Taken);
    EXPECT_EQ(names(byTime), "A-3 A-1 A-2 A-4 ");
    EXPECT_EQ(names(ordered(byTime, Order::Name)), "A-1 A-2 A-3 A-4 ");
}

TEST_F(Gathering, MovedAndRenamedFilesAreFoundByTheirContent) {
    fs::create_directories(dir / "b" / "deep");
    fs::rename(frame(1).file, dir / "b" / "deep" / "renamed.png");
    fs::rename(frame(2).file, dir / "b" / "A-2.png");  // the name of another
    fs::remove(frame(3).file);
    for (int i = 0; i < 4; ++i)
        EXPECT_EQ(fileState(frame(i)), i == 0 ? FileState::There : FileState::Missing);
    const Series found = located(all, dir / "b", nullptr, {});
    EXPECT_EQ(found.frames[0], all.frames[0]);
    EXPECT_EQ(found.frames[1]->file, dir / "b" / "deep" / "renamed.png");
    EXPECT_EQ(found.frames[2]->file, dir / "b" / "A-2.png");
    EXPECT_EQ(found.frames[3], all.frames[3]) << "gone for good";
    std::stop_source stop;
    stop.request_stop();
    EXPECT_EQ(located(all, dir / "b", nullptr, stop.get_token()).frames, all.frames);
}

TEST_F(Gathering, AChangedFileIsTakenAsItIsUnlessItsSizeIsAnother) {
    Frame f = frame(0);
    f.mends.push_back({7, {}, 0, false});
    testkit::write(f.file, testkit::grass({120, 80}), 8);
    ASSERT_EQ(fileState(f), FileState::Changed);
    const auto taken = withFileAsItIs(f);
    ASSERT_TRUE(taken);
    EXPECT_EQ(fileState(*taken), FileState::There);
    EXPECT_NE(taken->hash, f.hash);
    ASSERT_EQ(taken->mends.size(), 1u);
    EXPECT_EQ(taken->mends[0].id, 7u);
    testkit::write(f.file, testkit::grass({130, 80}), 8);
    const auto refused = withFileAsItIs(f);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.error().kind, Error::Kind::Changed);
    EXPECT_EQ(refused.error().file, f.file.string());
}

}  // namespace
}  // namespace gq::series
