// A batch that is killed at any moment leaves whole files, and is finished by the next run.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <thread>

#include "core/files/picture_reader.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq {
namespace {

using testkit::bytesOf;
namespace fs = std::filesystem;

/// The program with `arguments`, killed after `milliseconds` (0 = left to end). True if it ended.
bool ran(std::vector<std::string> arguments, int milliseconds) {
    arguments.insert(arguments.begin(), GQUILL);
    std::vector<char*> words;
    for (auto& a : arguments) words.push_back(a.data());
    words.push_back(nullptr);
    const pid_t child = fork();
    if (child == 0) {
        if (!freopen("/dev/null", "w", stdout)) _exit(126);
        execv(GQUILL, words.data());
        _exit(127);
    }
    if (milliseconds > 0) {
        std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
        kill(child, SIGKILL);
    }
    int status = 0;
    waitpid(child, &status, 0);
    return WIFEXITED(status) && WEXITSTATUS(status) == 0;
}

TEST(KilledBatch, LeavesWholeFilesAndIsFinishedByTheNextRun) {
    const testkit::Scratch dir;
    const Size size(1000, 700);
    fs::create_directories(dir / "in");
    for (std::uint32_t i = 1; i <= 8; ++i)
        testkit::write(dir / "in" / ("b" + std::to_string(i) + ".jpg"),
                       testkit::dusty(testkit::sky(size, i), {{{400, 300}, 12, 0.3f}}), 8);
    const auto clean = [&](const char* out, int milliseconds) {
        return ran({"clean", (dir / "in").string(), "--resume", "-o", (dir / out).string()},
                   milliseconds);
    };
    ASSERT_TRUE(clean("whole", 0));
    bool cut = false;
    for (int i = 0; i < 12; ++i) {
        cut |= !clean("killed", 60 + 37 * i);
        if (!fs::exists(dir / "killed")) continue;
        for (const auto& file : fs::directory_iterator(dir / "killed"))
            if (file.path().filename().string().front() != '.') {
                EXPECT_TRUE(files::readPicture(file.path())) << file.path() << " after kill " << i;
            }
    }
    EXPECT_TRUE(cut) << "one run at least was cut short";
    ASSERT_TRUE(clean("killed", 0));
    int files = 0;
    for (const auto& file : fs::directory_iterator(dir / "whole")) {
        EXPECT_EQ(bytesOf(file.path()), bytesOf(dir / "killed" / file.path().filename()))
            << file.path();
        ++files;
    }
    EXPECT_EQ(files, 8);
    EXPECT_EQ(std::distance(fs::directory_iterator(dir / "killed"), {}), 8) << "no leftovers";
}

}  // namespace
}  // namespace gq
