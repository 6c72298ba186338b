#include "core/files/safe_write.h"

#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include "core/files/content_hash.h"
#include "core/files/folder_scan.h"
#include "tests/testkit/scratch.h"

namespace gq::files {
namespace {

using testkit::bytesOf;
using testkit::Scratch;

TEST(WriteSafely, LeavesTheOldFileWhenFillingFails) {
    Scratch dir;
    ASSERT_TRUE(writeTextSafely(dir / "a.txt", "old"));
    const auto done = writeSafely(dir / "a.txt", true, [](const std::string& temporary) -> Status {
        EXPECT_TRUE(writeTextSafely(temporary, "half"));
        return fail(Error::Kind::DiskFull, "no more room");
    });
    ASSERT_FALSE(done);
    EXPECT_EQ(bytesOf(dir / "a.txt"), "old");
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(dir.path()), {}), 1)
        << "the temporary file is gone";
}

TEST(WriteSafely, RefusesToReplaceUnasked) {
    Scratch dir;
    ASSERT_TRUE(writeTextSafely(dir / "a.txt", "old"));
    const auto done =
        writeSafely(dir / "a.txt", false, [](const std::string&) -> Status { return {}; });
    ASSERT_FALSE(done);
    EXPECT_EQ(done.error().kind, Error::Kind::Refused);
    EXPECT_EQ(bytesOf(dir / "a.txt"), "old");
}

TEST(WriteSafely, NamesAFolderThatIsNotThere) {
    Scratch dir;
    const auto done = writeTextSafely(dir / "none" / "a.txt", "x");
    ASSERT_FALSE(done);
    EXPECT_NE(done.error().message().find("none/a.txt"), std::string::npos);
    EXPECT_FALSE(done.error().remedy.empty());
}

TEST(ContentHash, TellsAChangedFile) {
    Scratch dir;
    ASSERT_TRUE(writeTextSafely(dir / "a", "one"));
    const auto before = contentHash(dir / "a");
    ASSERT_TRUE(writeTextSafely(dir / "a", "two"));
    ASSERT_TRUE(before);
    EXPECT_NE(*before, *contentHash(dir / "a"));
    EXPECT_FALSE(contentHash(dir / "b"));
}

TEST(PictureFiles, ListsAPairOfRawAndJpegOnce) {
    Scratch dir;
    for (const char* n : {"b.jpg", "b.dng", "a.DNG", "note.txt", "c.tif", ".hidden.jpg"})
        ASSERT_TRUE(writeTextSafely(dir / n, "x"));
    const auto found = pictureFiles({dir.path()});
    ASSERT_EQ(found.size(), 3u);
    EXPECT_EQ(found[0].filename(), "a.DNG");
    EXPECT_EQ(found[1].filename(), "b.jpg");
    EXPECT_EQ(found[2].filename(), "c.tif");
}

TEST(PictureFiles, ListsAFileThatIsNamedTwiceOnce) {
    Scratch dir;
    ASSERT_TRUE(writeTextSafely(dir / "b.jpg", "x"));
    std::filesystem::create_directory(dir / "in");
    std::filesystem::create_symlink(dir / "b.jpg", dir / "in" / "c.jpg");
    EXPECT_EQ(
        pictureFiles({dir / "b.jpg", dir.path(), dir / "in" / ".." / "b.jpg", dir / "in"}).size(),
        1u);
}

TEST(SafeWrite, TakesAwayWhatAKilledProgramLeft) {
    const testkit::Scratch dir;
    const std::string gone = ".part-999999999-0-a.txt", others = ".part-999999999-1-b.txt",
                      running = ".part-" + std::to_string(::getpid()) + "-7-a.txt";
    for (const auto& name : {gone, others, running, std::string("a.txt")})
        ASSERT_TRUE(writeTextSafely(dir / name, "half"));
    removeLeftovers(dir.path(), [](const std::string& target) { return target == "a.txt"; });
    EXPECT_FALSE(std::filesystem::exists(dir / gone));
    EXPECT_TRUE(std::filesystem::exists(dir / others)) << "not asked for";
    EXPECT_TRUE(std::filesystem::exists(dir / running)) << "somebody is writing it";
    EXPECT_TRUE(std::filesystem::exists(dir / "a.txt"));
}

}  // namespace
}  // namespace gq::files
