// The program itself, run as a script would run it.
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/files/picture_reader.h"
#include "core/series/series_folder.h"
#include "sim/cloud_watch.h"
#include "tests/cli/cli_kit.h"

namespace gq {
namespace {

using nlohmann::json;
using testkit::bytesOf;
using testkit::gquill;
using testkit::kSize;
using testkit::kSpots;
using testkit::Ran;
using testkit::Scratch;
using testkit::Series;
using testkit::Spot;

TEST_F(Series, IsDescribedByInfo) {
    const Ran r = gquill("info " + in());
    EXPECT_EQ(r.exit, 0);
    EXPECT_NE(
        r.out.find("a2.jpg: JPEG, 900 x 700, 3 x 8 bits, orientation 6, Sandpiper Test, f/11"),
        std::string::npos)
        << r.out;
}

TEST_F(Series, IsSearchedIntoMaskAndJson) {
    const Ran r =
        gquill("find " + file(1).string() + " --origin sensor --mask " + at("m.png") + " --json -");
    ASSERT_EQ(r.exit, 0) << r.out;
    const json j = json::parse(r.out);
    int above = 0;
    for (const auto& f : j[0]["findings"]) above += bool(f["above_line"]);
    EXPECT_EQ(above, int(kSpots.size()));
    const auto mask = files::readPicture(at("m.png"));
    ASSERT_TRUE(mask);
    for (const auto& s : kSpots) EXPECT_EQ(mask->picture.pixels.at<ushort>(Point(s.at)), 65535);
    EXPECT_EQ(mask->picture.bits, 8);
}

TEST_F(Series, AScansOriginIsTheOneThatItsFileTells) {
    auto scan = files::readPicture(file(1));
    ASSERT_TRUE(scan);
    scan->pixelsPerMm = 600 / 25.4;
    ASSERT_TRUE(files::writePicture(at("s.tif"), *scan, {.format = files::Format::Tiff16}));
    const auto counts = [&](const std::string& options) {
        const Ran r = gquill("find " + at("s.tif") + options);
        EXPECT_EQ(r.exit, 0) << r.out;
        return r.out;
    };
    const std::string print = counts(" --origin print");
    EXPECT_EQ(counts(""),
              "taken for prints, as the files tell; --origin tells otherwise\n" + print);
    EXPECT_NE(counts(" --origin sensor"), print);
}

/// By frame: how many findings other frames share, and the confidence of the one at `at`.
std::pair<int, float> sharedAndAt(const json& frame, PointF at) {
    int shared = 0;
    float confidence = 0;
    for (const auto& f : frame["findings"]) {
        shared += bool(f["shared"]);
        if (std::hypot(float(f["centre"][0]) - at.x, float(f["centre"][1]) - at.y) < 8)
            confidence = f["confidence"];
    }
    return {shared, confidence};
}

TEST_F(Series, TellsTogetherWhatAFrameCannot) {
    const PointF bird(560, 500);  // dark and soft, but only in one frame
    auto spots = kSpots;
    spots.push_back({bird, 9, 0.2f});
    testkit::write(dir / "in" / "a6.jpg", testkit::dusty(testkit::sky(kSize, 6), spots), 8);
    const json together = json::parse(gquill("find " + in() + " --json -").out),
               alone = json::parse(gquill("find " + at("in/a6.jpg") + " --json -").out);
    ASSERT_EQ(together.size(), 6u);
    for (const auto& frame : together)
        EXPECT_EQ(sharedAndAt(frame, bird).first, int(kSpots.size())) << frame["file"];
    EXPECT_EQ(together[5]["file"], at("in/a6.jpg"));
    EXPECT_EQ(sharedAndAt(alone[0], bird).first, 0);
    EXPECT_LT(sharedAndAt(together[5], bird).second, 0.7f * sharedAndAt(alone[0], bird).second);
}

TEST_F(Series, IsOfOneCameraIfItsDustShowsItOrThatIsTold) {
    // These do not tell their camera. One spot in common is too little, three are not.
    const std::vector<Spot> one{kSpots[0]};
    const auto files = [&](const char* name, const std::vector<Spot>& spots) {
        std::string out;
        for (std::uint32_t i = 1; i <= 4; ++i) {
            const std::string file = at(name + std::to_string(i) + ".png");
            testkit::write(file, testkit::dusty(testkit::sky(kSize, i), spots), 8);
            out += " " + file;
        }
        return out;
    };
    const auto shared = [&](const std::string& of) {
        return sharedAndAt(json::parse(gquill("find --json -" + of).out)[1], {}).first;
    };
    const std::string few = files("b", one);
    EXPECT_EQ(shared(few), 0);
    EXPECT_EQ(shared(" --one-camera" + few), 1);
    EXPECT_EQ(shared(files("c", kSpots)), int(kSpots.size()));
}

TEST_F(Series, TellsOfTheChartItMakesFirstAndMakesNoneWhenAllIsDone) {
    const std::string clean = "clean " + in() + " --progress -o " + at("out");
    EXPECT_NE(gquill(clean).out.find("\"step\":\"chart\""), std::string::npos);
    const Ran again = gquill(clean + " --resume");
    EXPECT_EQ(again.exit, 0);
    EXPECT_EQ(again.out.find("\"step\""), std::string::npos) << again.out;
}

TEST_F(Series, NeverReplacesAnOriginalOfAnotherFrame) {
    testkit::write(at("in/a1.tif"), testkit::sky(kSize), 8);
    const std::string original = testkit::bytesOf(at("in/a1.tif"));
    const Ran r = gquill("clean " + file(1).string() + " " + at("in/a1.tif") +
                         " --format tiff8 --replace -o " + at("in"));
    EXPECT_EQ(r.exit, 1);
    EXPECT_NE(r.out.find("never written to"), std::string::npos) << r.out;
    EXPECT_EQ(testkit::bytesOf(at("in/a1.tif")), original);
}

TEST_F(Series, WritesNoFrameOverAnotherOfItsName) {
    std::filesystem::create_directories(at("other"));
    testkit::write(at("other/" + file(1).filename().string()), testkit::sky(kSize), 8);
    const std::string clean = "clean " + file(1).string() + " " +
                              at("other/" + file(1).filename().string()) + " --replace -o " +
                              at("out");
    const Ran r = gquill(clean);
    EXPECT_EQ(r.exit, 1);
    EXPECT_NE(r.out.find(file(1).string() + " goes to the same file"), std::string::npos) << r.out;
    expectClean(1, at("out/" + file(1).filename().string()));
    EXPECT_EQ(gquill(clean + " --resume").exit, 1) << "the other is not done";
}

TEST_F(Series, IsMendedUnderAMask) {
    ASSERT_EQ(gquill("find " + file(1).string() + " --mask " + at("m.png")).exit, 0);
    const Ran r = gquill("mend " + file(1).string() + " --mask " + at("m.png") +
                         " --method heal --grow 6 -o " + at("out.png"));
    ASSERT_EQ(r.exit, 0) << r.out;
    expectClean(1, at("out.png"));
    EXPECT_EQ(
        gquill("mend " + file(1).string() + " --mask " + at("m.png") + " -o " + at("out.png")).exit,
        1)
        << "nothing is replaced unasked";
    EXPECT_EQ(gquill("mend " + file(1).string() + " --mask " + at("m.png") + " --replace -o " +
                     file(1).string())
                  .exit,
              1)
        << "nor is an original";
}

TEST_F(Series, IsCleanedFrameByFrame) {
    const Ran r = gquill("clean " + in() + " --origin sensor --format png8 --progress -j 2 -o " +
                         at("clean"));
    ASSERT_EQ(r.exit, 0) << r.out;
    for (std::uint32_t i = 1; i <= 5; ++i)
        expectClean(i, dir / "clean" / ("a" + std::to_string(i) + ".png"));
    EXPECT_NE(r.out.find("{\"done\":5,\"frame\":"), std::string::npos) << r.out;
}

TEST_F(Series, IsCleanedByWhatItsFramesShare) {
    const Spot faint{{560, 560}, 10, 0.015f};  // too faint for a frame alone
    auto spots = kSpots;
    spots.push_back(faint);
    std::string files;
    for (std::uint32_t i = 1; i <= 8; ++i) {
        files += " " + at("c" + std::to_string(i) + ".jpg");
        testkit::write(at("c" + std::to_string(i) + ".jpg"),
                       testkit::dusty(testkit::sky(kSize, i), spots), 8);
    }
    const std::string known = std::to_string(kSpots.size()), all = std::to_string(spots.size());
    const Ran together = gquill("clean" + files + " -o " + at("together")),
              alone = gquill("clean " + at("c3.jpg") + " -o " + at("alone"));
    EXPECT_NE(together.out.find("c3.jpg: " + all + " mended"), std::string::npos) << together.out;
    EXPECT_NE(alone.out.find("c3.jpg: " + known + " mended"), std::string::npos) << alone.out;
}

TEST_F(Series, OfOneCameraIsDividedByItsDustOnBusyGroundToo) {
    const std::vector<Spot> dust{{{200, 200}, 14, 0.5f}, {{500, 300}, 16, 0.5f}};
    const auto clean = [](std::uint32_t i) {
        return i == 5 ? testkit::grass(kSize) : testkit::sky(kSize, i);
    };
    std::string files;
    for (std::uint32_t i = 1; i <= 5; ++i) {
        files += " " + at("g" + std::to_string(i) + ".jpg");
        testkit::write(at("g" + std::to_string(i) + ".jpg"), testkit::dusty(clean(i), dust), 8);
    }
    const Ran r = gquill("clean" + files + " --format png8 -o " + at("clean"));
    ASSERT_EQ(r.exit, 0) << r.out;
    const Image before = files::readPicture(at("g5.jpg"))->picture.pixels,
                after = files::readPicture(at("clean/g5.png"))->picture.pixels;
    const Mask there = testkit::maskOf(dust, kSize, 1.0f);
    EXPECT_GT(testkit::psnr(after, clean(5), there), testkit::psnr(before, clean(5), there) + 6);
}

TEST_F(Series, OfAFilmIsCleanedOfTheLinesOfItsRoll) {
    std::string files;
    for (std::uint32_t i = 1; i <= 4; ++i) {
        Image scan = testkit::dusty(testkit::sky(kSize, i), kSpots);
        scan.row(500 + int(i)) *= 1.1;  // light, unlike the dust
        files += " " + at("n" + std::to_string(i) + ".tif");
        testkit::write(at("n" + std::to_string(i) + ".tif"), scan, 16);
    }
    const auto contrast = [&](const std::string& file, int y) {
        const Image p = files::readPicture(at(file))->picture.pixels;
        return cv::mean(p.row(y))[1] - cv::mean(p.row(y - 12))[1];
    };
    const auto cleaned = [&](const std::string& names, const std::string& out) {
        const Ran r = gquill("clean --origin negative --polarity dark" + names + " -o " + at(out));
        EXPECT_EQ(r.exit, 0) << r.out;
        return contrast(out + "/n2.tif", 502) / contrast("n2.tif", 502);
    };
    EXPECT_GT(cleaned(" " + at("n2.tif"), "alone"), 0.9);
    const Ran r = gquill("clean --origin negative" + files + " -o " + at("film"));
    EXPECT_EQ(r.exit, 0) << r.out;
    for (int i = 1; i <= 4; ++i) {
        const std::string name = "n" + std::to_string(i) + ".tif";
        EXPECT_LT(std::abs(contrast("film/" + name, 500 + i) / contrast(name, 500 + i)), 0.1) << i;
    }
}

TEST_F(Series, OfAFlatbedsScansCarriesTheGlasssDustAndWhatTheReferenceHides) {
    const Spot grain{{300, 200}, 4, 0.8f}, hidden{{150, 300}, 4, 0.8f};
    const auto scan = [&](std::uint32_t i) { return at("scans/s" + std::to_string(i) + ".tif"); };
    std::filesystem::create_directories(dir / "scans");
    for (std::uint32_t i = 1; i <= 4; ++i) {
        std::vector<Spot> spots{grain, {{100.f + 90.f * float(i), 100}, 4, 0.8f}};
        if (i > 1) spots.push_back(hidden);  // white paper hides it on the first
        testkit::write(scan(i), testkit::specked(testkit::sky(kSize, i), spots), 16);
    }
    const Ran r = gquill("carry --from " + at("scans") + " --reference s1.tif --origin print -o " +
                         at("carried"));
    ASSERT_EQ(r.exit, 0) << r.out;
    const auto mended = [&](std::uint32_t i, const Spot& s) {
        const std::string name = "s" + std::to_string(i) + ".tif";
        const Image out = files::readPicture(dir / "carried" / name)->picture.pixels,
                    clean = testkit::sky(kSize, i);
        const Rect box(int(s.at.x) - 3, int(s.at.y) - 3, 6, 6);
        return std::abs(cv::mean(out(box))[1] - cv::mean(clean(box))[1]) < 1500;
    };
    for (std::uint32_t i = 2; i <= 4; ++i) {
        EXPECT_TRUE(mended(i, grain)) << i;
        EXPECT_TRUE(mended(i, hidden)) << i;
        EXPECT_FALSE(mended(i, {{100.f + 90.f * float(i), 100}, 4, 0.8f}))
            << "the paper's own is not carried to, nor mended";
    }
    const Image first = files::readPicture(dir / "carried" / "s1.tif")->picture.pixels,
                was = files::readPicture(scan(1))->picture.pixels;
    const Rect box(int(hidden.at.x) - 8, int(hidden.at.y) - 8, 16, 16);
    EXPECT_TRUE(testkit::equal(first(box), was(box))) << "the reference is left alone there";
}

TEST_F(Series, IsMergedWithTheProfileOfItsFrames) {
    const auto raw = testkit::demoFolder() / "cloud-watch" / "CW-001.dng";
    if (!std::filesystem::exists(raw)) GTEST_SKIP() << "needs the demo series";
    files::LoadedPicture frame = *files::readPicture(raw);  // for its profile
    ASSERT_FALSE(frame.profile.empty());
    for (const std::uint32_t i : {1, 2, 3}) {
        frame.picture = {testkit::sky(kSize, i), 16};
        if (i == 3) frame.profile.clear();
        ASSERT_TRUE(files::writePicture(dir / ("m" + std::to_string(i) + ".tif"), frame, {}));
    }
    const std::string merge = "merge --as bracket " + at("m1.tif ") + at("m2.tif ");
    EXPECT_EQ(gquill(merge + "-o " + at("both.tif")).exit, 0);
    EXPECT_EQ(files::readPicture(at("both.tif"))->profile, files::readPicture(raw)->profile);
    const Ran mixed = gquill(merge + at("m3.tif -o ") + at("mixed.tif"));
    EXPECT_NE(mixed.exit, 0);
    EXPECT_NE(mixed.out.find("m3.tif"), std::string::npos) << mixed.out;
    EXPECT_FALSE(std::filesystem::exists(at("mixed.tif")));
}

TEST_F(Series, ABracketIsFreedOfDustInAllItsFramesAlikeBeforeItIsMerged) {
    Image scene = testkit::sky(kSize);
    const Rect ground(0, 300, kSize.width, kSize.height - 300);  // for the frames to be laid by
    testkit::stones(kSize)(ground).copyTo(scene(ground));
    // In the lightest frame the sky is blown out and shows no dust; in the others it does.
    const auto merged = [&](const std::vector<Spot>& dust, const std::string& name) {
        std::string files;
        for (const double light : {0.5, 1.0, 2.5}) {
            files += " " + at(name + std::to_string(int(light * 10)) + ".tif");
            testkit::write(files.substr(files.rfind(' ') + 1),
                           Image(testkit::dusty(scene, dust) * light), 16);
        }
        const Ran r = gquill("merge --as bracket" + files + " -o " + at(name + ".tif"));
        EXPECT_EQ(r.exit, 0) << r.out;
        return files::readPicture(at(name + ".tif"))->picture.pixels;
    };
    const std::vector<Spot> dust{{{200, 120}, 9, 0.3f}, {{520, 90}, 12, 0.3f}};
    const Image clean = merged({}, "clean"), out = merged(dust, "dusty");
    ASSERT_EQ(out.size(), clean.size());
    EXPECT_GT(testkit::psnr(out, clean, testkit::maskOf(dust, out.size(), 1.0f)), 34);
}

TEST_F(Series, IsCarriedFromItsReference) {
    const Ran r =
        gquill("carry --from " + in() + " --reference a1.jpg --format tiff16 -o " + at("out"));
    ASSERT_EQ(r.exit, 0) << r.out;
    for (std::uint32_t i = 1; i <= 5; ++i)
        expectClean(i, dir / "out" / ("a" + std::to_string(i) + ".tif"));
}

TEST_F(Series, IsChartedAndCarriedByChart) {
    ASSERT_EQ(gquill("chart " + in() + " -o " + at("chart.json")).exit, 0);
    EXPECT_GE(json::parse(bytesOf(at("chart.json")))["dust"].size(), kSpots.size());
    const Ran r =
        gquill("carry --chart " + at("chart.json") + " " + in() + " --format png8 -o " + at("out"));
    ASSERT_EQ(r.exit, 0) << r.out;
    for (std::uint32_t i = 1; i <= 5; ++i)
        expectClean(i, dir / "out" / ("a" + std::to_string(i) + ".png"));
}

TEST_F(Series, CutAndTurnedPicturesAreCarriedToWhereTheyWereCut) {
    ASSERT_EQ(gquill("chart " + in() + " -o " + at("chart.json")).exit, 0);
    std::filesystem::create_directories(dir / "cut");
    const Rect part(60, 50, 700, 500);
    const Image clean = testkit::sky(kSize, 9), worn = testkit::dusty(clean, kSpots);
    const auto stored = [&](const cv::Mat& m) {
        return turned(m(part).clone(), Orientation::Turn90);
    };
    testkit::write(dir / "cut" / "c.png", stored(worn), 16);
    const std::string carry = "carry --chart " + at("chart.json") + " -o ";
    EXPECT_NE(gquill(carry + at("no") + " " + at("cut")).exit, 0) << "nobody told where it lies";
    const std::string turned = " --turned 90 --corner " +
                               std::to_string(kSize.height - part.br().y) + " " +
                               std::to_string(part.x) + " " + at("cut");
    const Ran done = gquill(carry + at("yes") + turned);
    ASSERT_EQ(done.exit, 0) << done.out;
    EXPECT_EQ(gquill(carry + at("beside") + " --compare" + turned).exit, 0);
    const Mask dust = stored(testkit::maskOf(kSpots, kSize, 1.0f));
    for (const char* folder : {"yes", "beside"}) {
        const auto out = files::readPicture(dir / folder / "c.png");
        ASSERT_TRUE(out);
        EXPECT_GT(testkit::psnr(out->picture.pixels, stored(clean), dust),
                  testkit::psnr(stored(worn), stored(clean), dust) + 6)
            << folder;
    }
    const Ran beyond = gquill(carry + at("no") + " --corner 401 0 " + at("cut"));
    EXPECT_NE(beyond.exit, 0);
    EXPECT_NE(beyond.out.find("reach beyond"), std::string::npos) << beyond.out;
}

TEST_F(Series, IsMendedFromAMaskByEveryMethod) {
    Mask mask(kSize, CV_8U, cv::Scalar(0));
    for (const auto& spot : kSpots) paint(mask, disc(spot.at, spot.radius * 1.7f, kSize));
    Image wide;
    mask.convertTo(wide, CV_16U, 257);
    testkit::write(dir / "mask.png", wide, 8);
    for (const char* method : {"auto", "heal", "clone", "span", "rebuild", "unshade"}) {
        const std::string out = at(std::string(method) + ".png");
        const Ran r = gquill("mend " + file(1).string() + " --mask " + at("mask.png") +
                             " --method " + method + " -o " + out);
        ASSERT_EQ(r.exit, 0) << method << r.out;
        expectClean(1, out);
    }
    EXPECT_EQ(gquill("mend " + file(1).string() + " --mask " + at("mask.png") +
                     " --method magic -o " + at("x.png"))
                  .exit,
              2);
}

TEST_F(Series, GoesOnPastABadFrameAndSaysSo) {
    std::ofstream(dir / "in" / "a0.jpg") << "damaged";
    const Ran r = gquill("clean " + in() + " -o " + at("clean"));
    EXPECT_EQ(r.exit, 1);
    EXPECT_NE(r.out.find("a0.jpg"), std::string::npos);
    EXPECT_TRUE(std::filesystem::exists(dir / "clean" / "a5.jpg"));
}

TEST(Pages, BeyondTheFirstAreToldOfAndTheFirstIsWorkedOn) {
    Scratch dir;
    const Image page = testkit::dusty(testkit::sky({300, 200}), {{{150, 100}, 9, 0.2f}});
    const auto at = [&](const char* name) { return (dir / name).string(); };
    testkit::writePages(at("two.tif"), {page, page});
    testkit::write(at("mask.png"), widen(testkit::maskOf({kSpots[0]}, page.size())), 8);
    for (const auto& command :
         {"find " + at("two.tif") + " --mask " + at("m.png"),
          "clean " + at("two.tif") + " -o " + at("out"),
          "mend " + at("two.tif") + " --mask " + at("mask.png") + " -o " + at("mended.tif")}) {
        const Ran r = gquill(command);
        EXPECT_EQ(r.exit, 0) << command;
        EXPECT_NE(r.out.find("two.tif: the file holds 2 pages"), std::string::npos) << r.out;
    }
}

TEST_F(Series, IsExportedWithItsMends) {
    std::vector<Error> faults;
    auto s = series::makeSeries({file(1), file(2)}, "s", faults);
    series::Frame f = *s.frames[0];
    for (const auto& spot : kSpots)
        f.mends.push_back({s.nextId++, {disc(spot.at, spot.radius * 1.6f, kSize)}, 0, false});
    ASSERT_TRUE(series::saveSeries(dir / "q", s.with(f)));
    const Ran r = gquill("export " + at("q") + " --format png8 -o " + at("out"));
    ASSERT_EQ(r.exit, 0) << r.out;
    expectClean(1, dir / "out" / "a1.png");
    EXPECT_TRUE(std::filesystem::exists(dir / "out" / "a2.png"));
}

TEST(Pair, WhoseRawFileWasStillToComeIsTakenUpAgain) {
    const Scratch dir;
    ASSERT_TRUE(sim::shootCloudWatch(dir / "s", {.frames = 1, .sensorWidth = 600}));
    std::vector<Error> faults;
    const auto s = series::makeSeries({dir / "s/cloud-watch/CW-001.jpg"}, "s", faults);
    ASSERT_TRUE(series::saveSeries(dir / "q", s));
    const std::string all = "export " + (dir / "q").string() +
                            " --format tiff8 --raw --resume -o " + (dir / "out").string();
    ASSERT_EQ(gquill(all).exit, 0);
    const auto raw = dir / "out" / "CW-001-raw.tif";
    ASSERT_TRUE(std::filesystem::remove(raw));
    const Ran again = gquill(all);
    EXPECT_EQ(again.exit, 0) << again.out;
    EXPECT_TRUE(std::filesystem::exists(raw));
    EXPECT_NE(gquill(all).out.find("done before"), std::string::npos);
}

TEST(Usage, IsTwoForWrongArguments) {
    for (const char* wrong : {"", "nonsense", "find", "find x.jpg --origin moon", "carry -o /tmp",
                              "find x.jpg --kinds dragon", "mend x.jpg -o y.png"})
        EXPECT_EQ(gquill(wrong).exit, 2) << wrong;
    EXPECT_EQ(gquill("--help").exit, 0);
    EXPECT_EQ(gquill("carry --help").exit, 0);
    EXPECT_EQ(gquill("find /no/such/file.jpg").exit, 1);
}

TEST_F(Series, ABatchThatWasCutShortIsTakenUpAgain) {
    const std::string carry = "carry --from " + in() + " --reference a1 -o " + at("out");
    ASSERT_EQ(gquill(carry).exit, 0);
    const std::string done = bytesOf(dir / "out" / "a2.jpg");
    std::filesystem::remove(dir / "out" / "a4.jpg");
    const Ran again = gquill(carry + " --resume --progress");
    EXPECT_EQ(again.exit, 0);
    EXPECT_NE(again.out.find("a2.jpg: done before"), std::string::npos);
    EXPECT_NE(again.out.find("seconds_left"), std::string::npos);
    EXPECT_TRUE(std::filesystem::exists(dir / "out" / "a4.jpg"));
    EXPECT_EQ(bytesOf(dir / "out" / "a2.jpg"), done);
    const Ran refused = gquill(carry);
    EXPECT_EQ(refused.exit, 1) << "without --resume nothing is replaced";
    EXPECT_NE(refused.out.find("5 of 5 frames failed"), std::string::npos);
}

TEST_F(Series, AChartLooksAtAsManyFramesAsItIsTold) {
    ASSERT_EQ(gquill("chart " + in() + " --frames 3 -o " + at("dust.json")).exit, 0);
    EXPECT_EQ(json::parse(bytesOf(dir / "dust.json"))["frames"], 3);
    ASSERT_EQ(gquill("chart " + in() + " --frames 0 -o " + at("all.json")).exit, 0);
    EXPECT_EQ(json::parse(bytesOf(dir / "all.json"))["frames"], 5);
}

TEST_F(Series, AChartDividesItsShadowsOut) {
    ASSERT_EQ(gquill("chart " + in() + " -o " + at("dust.json")).exit, 0);
    const auto chart = json::parse(bytesOf(dir / "dust.json"));
    for (const auto& spot : chart["dust"]) EXPECT_TRUE(spot.contains("shadow"));
    ASSERT_EQ(gquill("carry --chart " + at("dust.json") + " " + in() + " -o " + at("u")).exit, 0);
    for (std::uint32_t i = 1; i <= 5; ++i)
        expectClean(i, dir / "u" / ("a" + std::to_string(i) + ".jpg"));
}

}  // namespace
}  // namespace gq
