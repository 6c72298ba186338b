#include "core/render/search_series.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

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
    EXPECT_EQ(searchedTogether(s, kAll), (Groups{{"a", "c"}, {"b"}, {"d", "f"}, {"e"}}));
}

TEST(SearchSeries, PutsAFilmTogetherAndPrintsOfOneSize) {
    EXPECT_EQ(searchedTogether(mixed(find::Origin::Negative), kAll), Groups{kAll});
    EXPECT_EQ(searchedTogether(mixed(find::Origin::Print), kAll),
              (Groups{{"a", "b", "d", "f"}, {"c"}, {"e"}}));
    auto s = mixed(find::Origin::Positive);
    for (const char* id : {"b", "e"}) {
        auto moved = *s.frame(id);
        moved.file = "/other/roll.tif";
        s = s.with(moved);
    }
    EXPECT_EQ(searchedTogether(s, kAll), (Groups{{"a", "c", "d", "f"}, {"b", "e"}}))
        << "a folder holds one film";
}

TEST(SearchSeries, SaysThatABurstCannotTellOfItsSensor) {
    testkit::Scratch dir;
    const Image scene = testkit::stones({760, 560});
    std::vector<std::filesystem::path> files;
    for (int i = 0; i < 4; ++i) {  // held by hand
        files.push_back(dir / ("b" + std::to_string(i) + ".png"));
        testkit::write(files.back(), scene(Rect(40 + 5 * (i % 2), 40 - 4 * (i / 2), 700, 500)), 16);
    }
    std::vector<Error> faults;
    const auto s = series::makeSeries(files, "burst", faults);
    std::vector<std::string> ids;
    for (const auto& f : s.frames) ids.push_back(f->id);
    const auto out = searchSeries(s, ids, Untold::OneCamera);
    ASSERT_TRUE(out);
    ASSERT_EQ(out->notes.size(), 1u);
    EXPECT_TRUE(out->notes[0].starts_with("b0 to b3 show one scene")) << out->notes[0];
    EXPECT_TRUE(out->charts.empty());
    for (const auto& f : out->series.frames)
        for (const auto& e : f->findings) EXPECT_FALSE(e.charted) << e.finding.region.box;
}

TEST(SearchSeries, TellsTheDustOfAGlassByTheScansThatShowIt) {
    testkit::Scratch dir;
    const testkit::Spot grain{{300, 200}, 4, 0.8f};
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 0; i < 3; ++i) {
        const float x = 80 + 120 * float(i);
        files.push_back(dir / ("scan" + std::to_string(i) + ".tif"));
        testkit::write(files.back(),
                       testkit::specked(testkit::sky({600, 400}, 2 + i),
                                        {grain, {{x, 90}, 4, 0.8f}, {{x, 330}, 3, 0.8f}}),
                       16);
    }
    std::vector<Error> faults;
    auto s = series::makeSeries(files, "", faults);
    s.plan.origin = find::Origin::Print;
    const auto out = searchSeries(s, {"f0001", "f0002", "f0003"}, Untold::IfShown);
    ASSERT_TRUE(out);
    for (const auto& f : out->series.frames) {
        int tied = 0;
        for (const auto& e : f->findings)
            if (e.charted) {
                ++tied;
                EXPECT_TRUE(e.finding.region.contains(Point(grain.at)));
            }
        EXPECT_EQ(tied, 1) << f->name();
    }
    const auto again = searchSeries(out->series, {"f0002"}, Untold::IfShown);
    const auto& findings = again->series.frame("f0002")->findings;
    EXPECT_EQ(std::ranges::count_if(findings, [](const auto& e) { return e.charted; }), 1)
        << "by itself, beside the others";
    EXPECT_EQ(again->series.frame("f0001"), out->series.frame("f0001"));
}

/// A folder's frames as a series of negatives.
series::Series negatives(const std::vector<std::filesystem::path>& files) {
    std::vector<Error> faults;
    auto out = series::makeSeries(files, "", faults);
    out.plan.origin = find::Origin::Negative;
    return out;
}

const std::vector<testkit::Spot> kDust{{{80, 90}, 3, 0.7f},   {{300, 60}, 2, 0.6f},
                                       {{500, 200}, 4, 0.8f}, {{200, 330}, 3, 0.7f},
                                       {{420, 300}, 2, 0.7f}, {{120, 220}, 3, 0.8f}};

TEST(SearchSeries, TellsNegativesAsScannedFromInvertedOnesByTheirDust) {
    testkit::Scratch dir;
    const auto sky = testkit::sky({600, 400}, 2);
    testkit::write(dir / "scanned.tif", testkit::dusty(sky, kDust), 16);
    testkit::write(dir / "inverted.tif", testkit::specked(sky, kDust), 16);
    const auto s = negatives({dir / "scanned.tif", dir / "inverted.tif"});
    const auto out = searchSeries(s, {"f0001", "f0002"}, Untold::IfShown);
    ASSERT_TRUE(out);
    for (const auto& f : out->series.frames) {
        size_t found = 0;
        for (const auto& spot : kDust)
            found += std::any_of(f->findings.begin(), f->findings.end(), [&](const auto& e) {
                return e.finding.confidence > 0.5f && e.finding.region.box.contains(Point(spot.at));
            });
        EXPECT_EQ(found, kDust.size()) << f->name();
    }
    ASSERT_EQ(out->notes.size(), 1u);
    EXPECT_TRUE(out->notes[0].starts_with("scanned: dust is dark")) << out->notes[0];
}

TEST(SearchSeries, FramesOfAFilmAgreeOnWhatDustIsLike) {
    testkit::Scratch dir;
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 0; i < 3; ++i) {
        files.push_back(dir / ("n" + std::to_string(i) + ".tif"));
        const auto sky = testkit::sky({600, 400}, 5 + i);
        const std::vector<testkit::Spot> one{kDust[i]};
        testkit::write(files.back(), testkit::dusty(sky, i == 0 ? one : kDust), 16);
    }
    const auto s = negatives(files);
    const auto dark = [](const SearchedSeries& out) {
        const auto& found = out.series.frame("f0001")->findings;
        return std::count_if(found.begin(), found.end(), [](const auto& e) {
            return e.finding.confidence > 0.5f && e.finding.polarity == find::Polarity::Dark;
        });
    };
    EXPECT_EQ(dark(*searchSeries(s, {"f0001"}, Untold::IfShown)), 0)
        << "one speck tells too little";
    EXPECT_EQ(dark(*searchSeries(s, {"f0001", "f0002", "f0003"}, Untold::IfShown)), 1);
}

TEST(SearchSeries, AFrameOfAFilmThatTellsSpeaksForTheOthers) {
    Searched light, tells;
    light.guessed = true;
    light.dust = find::Polarity::Light;
    light.findings.resize(3);
    light.otherwise.resize(2);
    for (auto& f : light.findings) f.confidence = 0.9f;
    tells.dust = find::Polarity::Dark;
    agreeOnDust({&light, &tells});
    EXPECT_EQ(light.dust, find::Polarity::Dark);
    EXPECT_EQ(light.findings.size(), 2u);
    EXPECT_EQ(light.otherwise.size(), 3u);
    tells.dust = find::Polarity::Light;
    agreeOnDust({&light, &tells});
    EXPECT_EQ(light.dust, find::Polarity::Light);
    EXPECT_EQ(light.findings.size(), 3u);
}

TEST(SearchSeries, OfTheOtherPolarityOnlyClearScratchesAreTakenAndDoubtedMore) {
    const auto line = [](int x, find::Kind kind, float confidence) {
        find::Finding f;
        f.kind = kind;
        f.confidence = confidence;
        f.region = regionOf(Mask(200, 3, CV_8U, cv::Scalar(255)), {x, 0});
        f.measures.length = 200;
        return f;
    };
    using enum find::Kind;
    Searched film;
    film.findings = {line(100, Scratch, 0.99f)};
    film.otherwise = {line(50, Scratch, 0.9f), line(100, Scratch, 0.9f), line(150, Scratch, 0.4f),
                      line(200, Speck, 0.9f), line(250, Fibre, 0.9f)};
    takeScratches(film);
    ASSERT_EQ(film.findings.size(), 3u) << "the scratch, and the fibre as straight as one";
    EXPECT_EQ(film.findings[1].region.box.x, 50);
    EXPECT_EQ(film.findings[2].region.box.x, 250);
    EXPECT_LT(film.findings[1].confidence, 0.9f);
    EXPECT_GT(film.findings[1].confidence, 0.5f);
    EXPECT_EQ(film.otherwise.size(), 3u);
}

TEST(SearchSeries, AScratchThroughTheEmulsionIsFoundBesideDarkDust) {
    testkit::Scratch dir;
    Image slide = testkit::dusty(testkit::sky({900, 600}, 3) * 0.6, kDust);
    const Point from(610, 60), to(640, 420);
    cv::line(slide, from, to, cv::Scalar::all(60000), 2, cv::LINE_AA);
    cv::circle(slide, {750, 300}, 4, cv::Scalar::all(60000), -1, cv::LINE_AA);  // no dust is light
    testkit::write(dir / "slide.tif", slide, 16);
    auto s = negatives({dir / "slide.tif"});
    s.plan.origin = find::Origin::Positive;
    const auto out = searchSeries(s, {"f0001"}, Untold::IfShown);
    ASSERT_TRUE(out);
    int dark = 0, light = 0;
    for (const auto& e : out->series.frames.front()->findings) {
        if (e.finding.confidence < 0.5f) continue;
        if (e.finding.polarity == find::Polarity::Dark) {
            ++dark;
            continue;
        }
        ++light;
        EXPECT_GT(e.finding.region.box.height, 300) << e.finding.region.box;
    }
    EXPECT_EQ(light, 1);
    EXPECT_GE(dark, int(kDust.size()) - 1);
}

TEST(SearchSeries, ARollsLinesAreFoundWhicheverWayTheyDifferFromDust) {
    testkit::Scratch dir;
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 0; i < 4; ++i) {
        files.push_back(dir / ("n" + std::to_string(i) + ".tif"));
        Image scan = testkit::dusty(testkit::sky({900, 600}, 20 + i), kDust);
        scan.row(250 + int(i)) *= 1.12;
        testkit::write(files.back(), scan, 16);
    }
    const auto s = negatives(files);
    const auto lines = [](const SearchedSeries& out, const std::string& id) {
        const auto& found = out.series.frame(id)->findings;
        return std::count_if(found.begin(), found.end(), [](const auto& e) {
            return e.charted && e.finding.polarity == find::Polarity::Light &&
                   e.finding.region.box.width > 800;
        });
    };
    const auto out = searchSeries(s, {"f0001", "f0002", "f0003", "f0004"}, Untold::IfShown);
    ASSERT_TRUE(out);
    for (const auto& id : out->searched) EXPECT_EQ(lines(*out, id), 1) << id;
    const auto again = searchSeries(out->series, {"f0002"}, Untold::IfShown);
    EXPECT_EQ(lines(*again, "f0002"), 1) << "by itself, beside the others";
}

TEST(SearchSeries, AFrameIsSearchedInTheLightOfAChartOfMore) {
    testkit::Scratch dir;
    const testkit::Spot spot{{200, 150}, 9, 0.3f};
    std::vector<std::filesystem::path> files;
    for (std::uint32_t i = 1; i <= 5; ++i) {
        files.push_back(dir / ("a" + std::to_string(i) + ".jpg"));
        const Image clean = i == 5 ? testkit::grass({600, 400}, i) : testkit::sky({600, 400}, i);
        testkit::write(files.back(), testkit::dusty(clean, {spot}), 8);
    }
    std::vector<Error> faults;
    const auto s = series::makeSeries(files, "", faults);
    const auto finds = [&](const std::vector<carry::DustChart>& known) {
        const auto out = searchSeries(s, {"f0005"}, Untold::OneCamera, {}, {}, known);
        return std::ranges::any_of(out->series.frame("f0005")->findings, [&](const auto& e) {
            return series::proposed(e, 0.5f) && e.finding.region.contains(Point(spot.at));
        });
    };
    const auto four = searchSeries(s, {"f0001", "f0002", "f0003", "f0004"}, Untold::OneCamera);
    ASSERT_EQ(four->charts.size(), 1u);
    EXPECT_TRUE(finds(four->charts));
    EXPECT_FALSE(finds({}));
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
    const auto out = searchSeries(s, {"f0001", "f0002", "f0003", "f0004"}, Untold::IfShown,
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
    const auto stopped = searchSeries(s, {"f0001"}, Untold::IfShown, {}, stop.get_token());
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().kind, Error::Kind::Cancelled);
}

}  // namespace
}  // namespace gq::render
