#include "core/render/kept_charts.h"

#include <gtest/gtest.h>

#include "core/files/safe_write.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

carry::DustChart chartOf(const std::string& camera, int frames) {
    const Size sensor(900, 700);
    carry::DustChart out{.camera = camera, .sensor = sensor, .frames = frames};
    out.spots.push_back({disc({150, 120}, 9, sensor), 0.1f, frames, 6, {}});
    return out;
}

TEST(KeptCharts, TakeThePlaceOfThoseOfTheSameSensor) {
    testkit::Scratch dir;
    EXPECT_TRUE(keptCharts(dir.path())->empty());
    const auto both =
        renewed({chartOf("a", 5), chartOf("b", 5)}, {chartOf("b", 7), chartOf("c", 4)});
    ASSERT_TRUE(keepCharts(dir.path(), both));
    const auto kept = keptCharts(dir.path());
    ASSERT_EQ(kept->size(), 3u);
    EXPECT_EQ((*kept)[0].frames, 5);
    EXPECT_EQ((*kept)[1].frames, 7);
    EXPECT_EQ((*kept)[2].camera, "c");
    EXPECT_EQ((*kept)[2].spots.size(), 1u);
}

TEST(KeptCharts, AreThoseOfTheLastTimeAlone) {
    testkit::Scratch dir;
    ASSERT_TRUE(keepCharts(dir.path(), {chartOf("a", 5), chartOf("b", 5), chartOf("c", 5)}));
    ASSERT_TRUE(keepCharts(dir.path(), {chartOf("a", 6)}));
    const auto kept = keptCharts(dir.path());
    ASSERT_EQ(kept->size(), 1u);
    EXPECT_EQ(kept->front().frames, 6);
    ASSERT_TRUE(files::writeTextSafely(dir / "charts" / "1.json", "{}"));
    EXPECT_NE(keptCharts(dir.path()).error().file.find("1.json"), std::string::npos);
}

}  // namespace
}  // namespace gq::render
