// An older dust chart beside a later series of its camera.
#include <nlohmann/json.hpp>

#include "tests/cli/cli_kit.h"

namespace gq {
namespace {

using namespace testkit;
using nlohmann::json;

/// The dust of testkit::Series and, later, other scenes: one spot is gone, one has come.
class OlderChart : public Series {
  protected:
    void SetUp() override {
        Series::SetUp();
        ASSERT_EQ(gquill("chart " + in() + " -o " + at("old.json")).exit, 0);
        ASSERT_EQ(json::parse(bytesOf(dir / "old.json"))["dust"].size(), kSpots.size());
        std::filesystem::create_directories(dir / "later");
        for (std::uint32_t i = 1; i <= 5; ++i)
            testkit::write(later(i), testkit::dusty(scene(i), now), 8);
    }
    static Image scene(std::uint32_t i) { return testkit::sky(kSize, 20 + i); }
    std::filesystem::path later(std::uint32_t i) const {
        return dir / "later" / ("b" + std::to_string(i) + ".jpg");
    }
    /// Decibels gained in a spot of a later frame by `result`.
    double gain(std::uint32_t i, const std::string& folder, const Spot& spot) const {
        const auto before = files::readPicture(later(i)),
                   after = files::readPicture(dir / folder / later(i).filename());
        if (!before || !after) return -100;
        const Mask there = testkit::maskOf({spot}, kSize, 1.0f);
        return testkit::psnr(after->picture.pixels, scene(i), there) -
               testkit::psnr(before->picture.pixels, scene(i), there);
    }
    const Spot fresh{{620, 520}, 12, 0.2f};
    const std::vector<Spot> now{kSpots[0], kSpots[1], kSpots[2], fresh};
    const std::string words = "3 of 4 spots are still there, 0 moved, 1 gone, 1 new";
};

TEST_F(OlderChart, IsComparedAndRenewed) {
    const auto r =
        gquill("chart " + at("later") + " --compare " + at("old.json") + " -o " + at("new.json"));
    EXPECT_EQ(r.exit, 0);
    EXPECT_NE(r.out.find(words), std::string::npos) << r.out;
    EXPECT_EQ(json::parse(bytesOf(dir / "new.json"))["dust"].size(), now.size());
}

TEST_F(OlderChart, IsCarriedAsItIsUnlessComparedFirst) {
    const std::string carry = "carry --chart " + at("old.json") + " " + at("later");
    ASSERT_EQ(gquill(carry + " -o " + at("as-it-is")).exit, 0);
    EXPECT_GT(gain(1, "as-it-is", kSpots[1]), 6);
    EXPECT_LT(gain(1, "as-it-is", fresh), 1) << "the chart does not know it";
    const auto r = gquill(carry + " --compare -o " + at("renewed"));
    ASSERT_EQ(r.exit, 0) << r.out;
    EXPECT_NE(r.out.find(words), std::string::npos) << r.out;
    EXPECT_GT(gain(1, "renewed", kSpots[1]), 6);
    EXPECT_GT(gain(1, "renewed", fresh), 6);
}

TEST_F(OlderChart, IsCarriedAsItIsWhereTooFewFramesTell) {
    const auto r = gquill("carry --chart " + at("old.json") + " --compare " + later(1).string() +
                          " " + later(2).string() + " -o " + at("two"));
    EXPECT_EQ(r.exit, 0);
    EXPECT_NE(r.out.find("carried as it is"), std::string::npos) << r.out;
    EXPECT_GT(gain(2, "two", kSpots[0]), 6);
}

TEST_F(OlderChart, IsComparedWithItsOwnCamerasFramesAlone) {
    testkit::write(dir / "later" / "a-first.png", testkit::sky({600, 500}, 40), 16);
    const auto r = gquill("carry --chart " + at("old.json") + " --compare " + at("later") + " -o " +
                          at("own"));
    EXPECT_EQ(r.exit, 1) << "one frame is refused";
    EXPECT_NE(r.out.find(words), std::string::npos) << r.out;
    EXPECT_NE(r.out.find("a-first.png"), std::string::npos) << r.out;
    EXPECT_GT(gain(1, "own", fresh), 6);
}

TEST_F(OlderChart, OfAnotherCameraIsRefusedByName) {
    const auto other = testkit::sky({600, 500}, 40);
    std::filesystem::create_directories(dir / "other");
    for (int i = 0; i < 3; ++i)
        testkit::write(dir / "other" / ("c" + std::to_string(i) + ".png"), other, 16);
    const auto r =
        gquill("carry --chart " + at("old.json") + " --compare " + at("other") + " -o " + at("x"));
    EXPECT_EQ(r.exit, 1);
    EXPECT_NE(r.out.find("old.json"), std::string::npos) << r.out;
    EXPECT_FALSE(std::filesystem::exists(dir / "x" / "c0.png"));
}

}  // namespace
}  // namespace gq
