#include "core/carry/glass_dust.h"

#include <gtest/gtest.h>

#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::carry {
namespace {

const Size kSize(640, 480);
const PointF kGrain(200, 150);

find::Finding light(PointF at, float radius, float confidence,
                    find::Kind kind = find::Kind::Speck) {
    find::Finding f;
    f.region = disc(at, radius, kSize);
    f.kind = kind;
    f.polarity = find::Polarity::Light;
    f.confidence = confidence;
    return f;
}

/// Four scans; the first `count` have the grain, each has a speck of its own.
series::Series scans(int count) {
    series::Series s;
    for (int i = 0; i < 4; ++i) {
        series::Frame f = testkit::frameOf("f" + std::to_string(i), kSize);
        if (i < count)
            f.findings.push_back(
                {s.nextId++, light(kGrain + PointF(0.5f * float(i % 2), 0), 4, 0.4f)});
        f.findings.push_back({s.nextId++, light({100.f + 90.f * float(i), 300}, 4, 0.4f)});
        s.frames.push_back(std::make_shared<const series::Frame>(std::move(f)));
    }
    return s;
}

const std::vector<std::string> kAll{"f0", "f1", "f2", "f3"};

PixelSource all(const Image& pixels) {
    return [=](const series::Frame&, std::stop_token) { return Result<Image>(pixels); };
}

const series::FindingEntry* at(const series::Frame& frame, PointF place) {
    for (const auto& e : frame.findings)
        if (cv::norm(e.finding.region.centre() - place) < 3) return &e;
    return nullptr;
}

TEST(GlassDust, IsTiedAndSurerWhereTwoScansShowTheSame) {
    const auto s = withGlassDust(scans(2), kAll);
    for (const auto& f : s.frames)
        for (const auto& e : f->findings) {
            const bool grain = cv::norm(e.finding.region.centre() - kGrain) < 3;
            EXPECT_EQ(e.charted, grain);
            EXPECT_EQ(e.finding.confidence > 0.8f, grain);
        }
}

TEST(GlassDust, IsNotToldByOneScanNorByAnotherKindOfMark) {
    for (const auto& f : withGlassDust(scans(1), kAll).frames)
        for (const auto& e : f->findings) EXPECT_FALSE(e.charted);
    auto s = scans(0);
    for (const auto& [id, finding] :
         {std::pair("f0", light(kGrain, 4, 0.9f)),
          std::pair("f1", light(kGrain, 20, 0.9f)),  // much larger
          std::pair("f2", light(kGrain, 4, 0.9f, find::Kind::Stain)),
          std::pair("f3", light(kGrain, 4, 0.1f))}) {  // hardly believed
        auto f = *s.frame(id);
        f.findings.push_back({s.nextId++, finding});
        s = s.with(f);
    }
    auto dark = *s.frame("f1");
    dark.findings.push_back({s.nextId++, light(kGrain, 4, 0.9f)});
    dark.findings.back().finding.polarity = find::Polarity::Dark;
    s = s.with(dark);
    for (const auto& f : withGlassDust(s, kAll).frames)
        for (const auto& e : f->findings) EXPECT_FALSE(e.charted);
}

TEST(GlassDust, IsAddedToScansThatShowItAndToNoOther) {
    const Image sky = testkit::sky(kSize), worn = testkit::specked(sky, {{kGrain, 4, 0.5f}});
    EXPECT_TRUE(at(*withGlassDust(scans(2), kAll, all(worn)).frame("f3"), kGrain));
    EXPECT_FALSE(at(*withGlassDust(scans(2), kAll, all(sky)).frame("f3"), kGrain));
}

TEST(GlassDust, LeavesWhatWasJudgedByAPersonAsItIs) {
    auto s = scans(2);
    auto f = *s.frame("f0");
    f.findings.front().left = true;
    s = withGlassDust(s.with(f), kAll);
    EXPECT_TRUE(s.frame("f0")->findings.front().charted);
    EXPECT_FLOAT_EQ(s.frame("f0")->findings.front().finding.confidence, 0.4f);
}

TEST(GlassOf, BringsWhatTheScanHidesAndLeavesThePapersStains) {
    const auto s = withGlassDust(scans(2), kAll);
    auto frame = *s.frame("f3");
    frame.findings.push_back({90, light({500, 100}, 30, 0.9f, find::Kind::Stain)});
    frame.mends.push_back({91, {disc({500, 100}, 30, kSize)}, 90});
    frame.mends.push_back({92, {disc({370, 300}, 5, kSize)}, frame.findings.front().id});
    series::Id next = 200;
    const auto from = glassOf(frame, s, next);
    ASSERT_EQ(from.mends.size(), 2u);
    EXPECT_EQ(from.mends[0].id, 92u);
    const auto* hidden = from.finding(from.mends[1].finding);
    ASSERT_TRUE(hidden);
    EXPECT_LT(cv::norm(hidden->finding.region.centre() - kGrain), 2);
    EXPECT_EQ(glassOf(*s.frame("f0"), s, next).mends.size(), 0u) << "it shows the grain itself";

    // It goes to a scan that shows it, though its mend is much larger than the grain.
    auto large = from;
    large.mends[1].mend.region = disc(kGrain, 16, kSize);
    const auto out = carryTo(testkit::specked(testkit::sky(kSize), {{kGrain, 4, 0.5f}}), large,
                             *s.frame("f2"), {.reference = "f3", .targets = {"f2"}}, 0.5f, next);
    ASSERT_TRUE(out);
    for (const auto& c : out->carried)
        EXPECT_EQ(c.verdict, c.fromMend == large.mends[1].id ? series::Verdict::Mended
                                                             : series::Verdict::NotVisible);
}

}  // namespace
}  // namespace gq::carry
