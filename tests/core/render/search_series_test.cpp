#include "core/render/search_series.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::render {
namespace {

using Groups = std::vector<std::vector<std::string>>;

/// Frames a to f: of two cameras, one of them smaller, one of another shape, and two that do not
/// tell.
series::Series mixed(find::Origin origin) {
    series::Series out;
    out.plan.origin = origin;
    const auto add = [&](const char* id, const char* camera, const Size& size) {
        series::Frame f;
        f.id = id;
        f.camera = camera;
        f.geometry.stored = size;
        out.frames.push_back(std::make_shared<const series::Frame>(f));
    };
    add("a", "Sandpiper", {900, 600});
    add("b", "Dunlin", {900, 600});
    add("c", "Sandpiper", {450, 300});
    add("d", "", {900, 600});
    add("e", "Sandpiper", {600, 600});
    add("f", "", {900, 600});
    return out;
}

const std::vector<std::string> kAll{"a", "b", "c", "d", "e", "f"};

TEST(SearchSeries, PutsFramesOfOneSensorTogether) {
    const auto s = mixed(find::Origin::Sensor);
    EXPECT_EQ(searchedTogether(s, kAll, Untold::Apart),
              (Groups{{"a", "c"}, {"b"}, {"d"}, {"e"}, {"f"}}));
    EXPECT_EQ(searchedTogether(s, kAll, Untold::OneCamera),
              (Groups{{"a", "c"}, {"b"}, {"d", "f"}, {"e"}}));
}

TEST(SearchSeries, PutsAFilmTogetherAndPrintsApart) {
    EXPECT_EQ(searchedTogether(mixed(find::Origin::Negative), kAll, Untold::Apart), Groups{kAll});
    EXPECT_EQ(searchedTogether(mixed(find::Origin::Print), kAll, Untold::OneCamera).size(), 6u);
}

TEST(SearchSeries, NamesWhatCannotBeReadAndSearchesTheRest) {
    testkit::Scratch dir;
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 1; i <= 4; ++i) {
        files.push_back(dir / ("a" + std::to_string(i) + ".jpg"));
        testkit::write(files.back(),
                       testkit::dusty(testkit::sky({600, 400}, i), {{{200, 150}, 12, 0.2f}}), 8);
    }
    std::vector<Error> faults;
    const auto s = series::makeSeries(files, "", faults);
    ASSERT_EQ(s.frames.size(), 4u);
    std::filesystem::remove(files[1]);
    std::vector<double> told;
    const auto out = searchSeries(s, {"f0001", "f0002", "f0003", "f0004"}, Untold::Apart,
                                  [&](double share) { told.push_back(share); });
    ASSERT_TRUE(out);
    ASSERT_EQ(out->faults.size(), 1u);
    EXPECT_EQ(out->faults[0].file, files[1]);
    EXPECT_EQ(out->searched, (std::vector<std::string>{"f0001", "f0003", "f0004"}));
    for (const auto& id : out->searched) {
        const auto& found = out->series.frame(id)->findings;
        EXPECT_TRUE(std::any_of(found.begin(), found.end(), [](const auto& e) {
            return e.charted && e.finding.region.box.contains({200, 150});
        })) << id;
    }
    EXPECT_FALSE(out->series.frame("f0002")->searched);
    EXPECT_TRUE(std::is_sorted(told.begin(), told.end()));
    EXPECT_NEAR(told.back(), 1, 1e-6);

    std::stop_source stop;
    stop.request_stop();
    const auto stopped = searchSeries(s, {"f0001"}, Untold::Apart, {}, stop.get_token());
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, Error::Kind::Cancelled);
}

}  // namespace
}  // namespace gq::render
