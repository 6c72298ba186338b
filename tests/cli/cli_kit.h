#pragma once
#include <gtest/gtest.h>
#include <sys/wait.h>

#include <cstdio>

#include "core/files/picture_reader.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

/// What tests of the command line share: running it, and a series of one dusty camera.
namespace gq::testkit {

struct Ran {
    int exit;
    std::string out;  ///< standard output and error
};

inline Ran gquill(const std::string& arguments) {
    Ran r{-1, {}};
    FILE* p = popen((std::string(GQUILL) + " " + arguments + " 2>&1").c_str(), "r");
    char buffer[4096];
    while (p && fgets(buffer, sizeof buffer, p)) r.out += buffer;
    if (p) r.exit = WEXITSTATUS(pclose(p));
    return r;
}

inline const Size kSize(900, 700);
inline const std::vector<Spot> kSpots{
    {{150, 120}, 9, 0.2f}, {{400, 200}, 14, 0.15f}, {{720, 300}, 8, 0.25f}, {{300, 420}, 20, 0.1f}};

/// Five frames of one dusty camera, two of them turned.
class Series : public testing::Test {
  protected:
    void SetUp() override {
        std::filesystem::create_directories(dir / "in");
        for (std::uint32_t i = 1; i <= 5; ++i) {
            const auto turn = i == 2   ? Orientation::Turn90
                              : i == 4 ? Orientation::Turn270
                                       : Orientation::Upright;
            write(file(i), dusty(sky(kSize, i), kSpots), 8, turn);
            originals += bytesOf(file(i));
        }
    }
    void TearDown() override {
        std::string now;
        for (std::uint32_t i = 1; i <= 5; ++i) now += bytesOf(file(i));
        EXPECT_TRUE(now == originals) << "originals are never written to";
    }
    std::filesystem::path file(std::uint32_t i) const {
        return dir / "in" / ("a" + std::to_string(i) + ".jpg");
    }
    std::string in() const { return (dir / "in").string(); }
    std::string at(const std::string& name) const { return (dir / name).string(); }

    /// Better inside the dust than the frame was.
    void expectClean(std::uint32_t i, const std::filesystem::path& result) const {
        const auto before = files::readPicture(file(i)), after = files::readPicture(result);
        ASSERT_TRUE(before && after) << result;
        const Mask dust = maskOf(kSpots, kSize, 1.0f);
        const Image clean = sky(kSize, i);
        EXPECT_GT(psnr(after->picture.pixels, clean, dust),
                  psnr(before->picture.pixels, clean, dust) + 6)
            << result;
    }
    Scratch dir;
    std::string originals;
};

}  // namespace gq::testkit
