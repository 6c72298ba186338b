#include "core/series/series_folder.h"

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "core/files/safe_write.h"
#include "core/pixels/hash_noise.h"
#include "core/series/frame_json.h"
#include "tests/testkit/scratch.h"

namespace gq::series {
namespace {

using nlohmann::json;
using testkit::bytesOf;
using testkit::Scratch;

Series filled(const std::filesystem::path& folder) {
    Series s;
    s.name = "Cloud watch";
    s.plan.origin = find::Origin::Negative;
    s.plan.line = 0.62f;
    s.reference = "f0002";
    for (const char* id : {"f0001", "f0002"}) {
        Frame f = testkit::frameOf(id, {400, 300}, Orientation::Turn270);
        f.file = folder / (std::string(id) + ".jpg");
        find::Finding found;
        found.region = stroke({{30, 40}, {90, 70}}, 5, {400, 300});
        found.kind = find::Kind::Fibre;
        found.confidence = 0.75f;
        found.measures.contrast = 0.125f;
        f.findings = {{s.nextId++, found, true}};
        mend::Mend m;
        m.region = disc({100, 90}, 12, {400, 300});
        m.source = Point(-30, 12);
        m.softness = 4.5f;
        m.candidate = 2;
        mend::Mend shaded = m;
        shaded.method = mend::Method::Unshade;
        shaded.source.reset();
        const ImageF share(3, 4, CV_32F, cv::Scalar(-0.1234));
        shaded.shade =
            std::make_shared<const mend::KnownShade>(mend::KnownShade{Rect(98, 88, 4, 3), share});
        f.mends = {{s.nextId++, m, f.findings[0].id, true}, {s.nextId++, shaded, 0, false}};
        f.carried = {{"f0002", 77, f.mends[0].id, Verdict::NeedsLook, m.region}};
        if (f.id == "f0001") {
            f.geometry.sensor = {900, 800};
            f.geometry.cropOffset = {30, 40};
            f.geometry.storedTurn = Orientation::Turn270;
        }
        s.frames.push_back(std::make_shared<const Frame>(std::move(f)));
    }
    return s;
}

TEST(SeriesFolder, ComesBackAsItWasSaved) {
    Scratch dir;
    const Series s = filled(dir.path());
    ASSERT_TRUE(saveSeries(dir / "q", s));
    const auto back = loadSeries(dir / "q");
    ASSERT_TRUE(back) << back.error().message();
    EXPECT_EQ(back->name, s.name);
    EXPECT_EQ(back->reference, "f0002");
    EXPECT_EQ(back->plan.origin, find::Origin::Negative);
    EXPECT_EQ(back->nextId, s.nextId);
    EXPECT_EQ(back->frames[0]->geometry.sensorSize(), Size(900, 800));
    EXPECT_EQ(back->frames[0]->geometry.toSensor({0, 0}), s.frames[0]->geometry.toSensor({0, 0}));
    EXPECT_EQ(back->frames[1]->geometry.sensor, Size());
    for (size_t i = 0; i < 2; ++i)
        EXPECT_EQ(toJson(*back->frames[i], dir / "q"), toJson(*s.frames[i], dir / "q"));
    EXPECT_EQ(json::parse(bytesOf(dir / "q" / "frames" / "f0001.json"))["file"], "../f0001.jpg")
        << "paths are relative";
}

TEST(SeriesFolder, KeepsTheShadeOfAMendAndRefusesOneThatDoesNotFit) {
    Scratch dir;
    const Series s = filled(dir.path());
    ASSERT_TRUE(saveSeries(dir / "q", s));
    const auto back = loadSeries(dir / "q");
    ASSERT_TRUE(back) << back.error().message();
    const auto& was = *s.frames[0]->mends[1].mend.shade;
    const auto& is = back->frames[0]->mends[1].mend.shade;
    ASSERT_TRUE(is);
    EXPECT_EQ(is->box, was.box);
    EXPECT_LT(cv::norm(is->logShare, was.logShare, cv::NORM_INF), 1e-4);
    json j = json::parse(bytesOf(dir / "q" / "frames" / "f0001.json"));
    j["mends"][1]["shade"]["values"] = "-1,-2";
    ASSERT_TRUE(files::writeTextSafely(dir / "q" / "frames" / "f0001.json", j.dump()));
    EXPECT_FALSE(loadSeries(dir / "q"));
}

TEST(SeriesFolder, KeepsFieldsItDoesNotKnow) {
    Scratch dir;
    ASSERT_TRUE(saveSeries(dir / "q", filled(dir.path())));
    for (const char* name : {"series.json", "frames/f0001.json"}) {
        json j = json::parse(bytesOf(dir / "q" / name));
        j["later"] = {{"a", 1}};
        ASSERT_TRUE(files::writeTextSafely(dir / "q" / name, j.dump()));
    }
    const auto s = loadSeries(dir / "q");
    ASSERT_TRUE(s);
    ASSERT_TRUE(saveSeries(dir / "q", *s));
    for (const char* name : {"series.json", "frames/f0001.json"})
        EXPECT_EQ(json::parse(bytesOf(dir / "q" / name))["later"]["a"], 1) << name;
}

TEST(SeriesFolder, WritesOnlyFramesThatChanged) {
    Scratch dir;
    const Series s = filled(dir.path());
    ASSERT_TRUE(saveSeries(dir / "q", s));
    const auto first = dir / "q" / "frames" / "f0001.json";
    std::filesystem::remove(first);
    Frame changed = *s.frames[1];
    changed.searched = true;
    ASSERT_TRUE(saveSeries(dir / "q", s.with(changed), &s));
    EXPECT_FALSE(std::filesystem::exists(first));
}

TEST(SeriesFolder, RefusesANewerVersionInWords) {
    Scratch dir;
    ASSERT_TRUE(saveSeries(dir / "q", filled(dir.path())));
    json j = json::parse(bytesOf(dir / "q" / "series.json"));
    j["version"] = 99;
    ASSERT_TRUE(files::writeTextSafely(dir / "q" / "series.json", j.dump()));
    const auto s = loadSeries(dir / "q");
    ASSERT_FALSE(s);
    EXPECT_EQ(s.error().kind, Error::Kind::NewerVersion);
    EXPECT_NE(s.error().message().find("series.json"), std::string::npos);
}

TEST(SeriesFolder, NamesADamagedFileAndSurvivesAnyDamage) {
    Scratch dir;
    ASSERT_TRUE(saveSeries(dir / "q", filled(dir.path())));
    for (const char* name : {"series.json", "frames/f0002.json"}) {
        const std::string whole = bytesOf(dir / "q" / name);
        int refused = 0;
        for (int i = 0; i < 150; ++i) {
            std::string bad = whole;
            for (int k = 0; k < 3; ++k)
                bad[hash32(1, i, k) % bad.size()] = char(32 + hash32(2, i, k) % 95);
            if (i % 4 == 0) bad.resize(hash32(3, i, 0) % bad.size());
            ASSERT_TRUE(files::writeTextSafely(dir / "q" / name, bad));
            const auto s = loadSeries(dir / "q");
            if (s) continue;
            ++refused;
            EXPECT_FALSE(s.error().file.empty());
            EXPECT_FALSE(s.error().what.empty());
        }
        EXPECT_GT(refused, 20);
        ASSERT_TRUE(files::writeTextSafely(dir / "q" / name, whole));
    }
}

TEST(FolderLock, TakesAwayWhatAKilledProgramLeftHalfWritten) {
    testkit::Scratch dir;
    std::filesystem::create_directories(dir / "q/frames");
    const auto half = dir / "q/frames/.part-999999999-0-A-1.json",
               whole = dir / "q/frames/A-1.json";
    for (const auto& file : {half, whole}) ASSERT_TRUE(files::writeTextSafely(file, "{}"));
    ASSERT_TRUE(FolderLock::take(dir / "q"));
    EXPECT_FALSE(std::filesystem::exists(half));
    EXPECT_TRUE(std::filesystem::exists(whole));
}

TEST(FolderLock, KeepsASecondWriterOut) {
    Scratch dir;
    auto first = FolderLock::take(dir / "q");
    ASSERT_TRUE(first);
    const auto second = FolderLock::take(dir / "q");
    ASSERT_FALSE(second);
    EXPECT_EQ(second.error().kind, Error::Kind::Busy);
    first->reset();
    EXPECT_TRUE(FolderLock::take(dir / "q"));
}

}  // namespace
}  // namespace gq::series
