#include "core/render/mended_set.h"

#include <gtest/gtest.h>

#include "core/render/search_series.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

const Size kSize(700, 500);
const testkit::Spot kEverywhere{{200, 150}, 9, 0.3f}, kOnTheFirst{{450, 300}, 9, 0.3f};

/// Two frames with dust at one place, the first with another spot; searched and mended.
Result<series::Series> mendedAs(series::Purpose purpose, const testkit::Scratch& dir) {
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 1; i <= 2; ++i) {
        std::vector<testkit::Spot> spots{kEverywhere};
        if (i == 1) spots.push_back(kOnTheFirst);
        files.push_back(dir / (std::to_string(i) + ".png"));
        testkit::write(files.back(), testkit::dusty(testkit::sky(kSize, i), spots), 16);
    }
    std::vector<Error> faults;
    const auto plain = series::makeSeries(files, "", faults);
    const std::vector<std::string> ids{plain.frames[0]->id, plain.frames[1]->id};
    return searchSeries(series::withSet(plain, ids, purpose), ids, Untold::OneCamera)
        .and_then([](const auto& found) { return mendedSet(found.series, found.charts); });
}

const mend::Mend* mendAt(const series::Frame& frame, const testkit::Spot& spot) {
    for (const auto& m : frame.mends)
        if (!m.muted && m.mend.region.contains(Point(spot.at))) return &m.mend;
    return nullptr;
}

TEST(MendedSet, ABracketIsMendedAtOnePlaceFromOneSource) {
    const testkit::Scratch dir;
    const auto set = mendedAs(series::Purpose::Bracket, dir);
    ASSERT_TRUE(set);
    for (const auto& spot : {kEverywhere, kOnTheFirst}) {
        const auto *first = mendAt(*set->frames[0], spot), *second = mendAt(*set->frames[1], spot);
        ASSERT_TRUE(first && second) << spot.at << " is mended where it does not show as well";
        EXPECT_EQ(first->region.box, second->region.box);
        ASSERT_TRUE(first->source && second->source);
        EXPECT_EQ(*first->source, *second->source);
    }
}

TEST(MendedSet, FramesOfAPanoramaAreMendedEachByItself) {
    const testkit::Scratch dir;
    const auto set = mendedAs(series::Purpose::Panorama, dir);
    ASSERT_TRUE(set);
    EXPECT_TRUE(mendAt(*set->frames[0], kEverywhere) && mendAt(*set->frames[0], kOnTheFirst));
    EXPECT_TRUE(mendAt(*set->frames[1], kEverywhere));
    EXPECT_FALSE(mendAt(*set->frames[1], kOnTheFirst));
}

}  // namespace
}  // namespace gq::render
