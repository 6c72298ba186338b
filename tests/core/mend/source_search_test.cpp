#include "core/mend/source_search.h"

#include <gtest/gtest.h>

#include "core/mend/patch_match.h"
#include "core/pixels/parallel.h"
#include "tests/testkit/pictures.h"

namespace gq::mend {
namespace {

const Size kSize(220, 160);
const Rect kWhole({0, 0}, kSize);
const Point kPlace(110, 80), kTwin(31, -22);

/// Grass in which the surroundings of `kPlace` are there once more, `kTwin` away.
Image withTwin() {
    Image out = testkit::grass(kSize, 5);
    const Rect around(kPlace - Point(20, 20), Size(40, 40));
    out(around).clone().copyTo(out(around + kTwin));
    return out;
}

std::vector<Point> pixelsOf(const Region& r) {
    std::vector<Point> out;
    for (int y = 0; y < r.box.height; ++y)
        for (int x = 0; x < r.box.width; ++x)
            if (r.mask.at<uchar>(y, x)) out.emplace_back(r.box.x + x, r.box.y + y);
    return out;
}

std::vector<Source> found(const Image& pixels, const std::vector<Region>& avoid) {
    const Region hole = disc(PointF(kPlace), 7, kSize);
    const Window w(pixels, kWhole, hole, avoid);
    const auto piece = pixelsOf(hole);
    return searchSources(w, piece, ringOf(w, piece, 5), {.farthest = 48, .count = 12}, {});
}

TEST(SearchSources, FindsTheSameTextureToThePixel) {
    const auto sources = found(withTwin(), {});
    ASSERT_FALSE(sources.empty());
    EXPECT_EQ(sources[0].offset, kTwin);
    EXPECT_LT(sources[0].cost, 0.2f * sources[1].cost);
}

TEST(SearchSources, ComeBestFirstAndApart) {
    const auto sources = found(testkit::grass(kSize), {});
    ASSERT_EQ(sources.size(), 12u);
    for (size_t i = 1; i < sources.size(); ++i) {
        EXPECT_LE(sources[i - 1].cost, sources[i].cost);
        for (size_t k = 0; k < i; ++k) {
            const Point d = sources[i].offset - sources[k].offset;
            EXPECT_GT(std::max(std::abs(d.x), std::abs(d.y)), 1);
        }
    }
}

TEST(SearchSources, NeverCopyWhatIsToBeAvoided) {
    const Region other = disc(PointF(kPlace + kTwin), 9, kSize);
    const auto sources = found(withTwin(), {other});
    ASSERT_FALSE(sources.empty());
    const auto piece = pixelsOf(disc(PointF(kPlace), 7, kSize));
    for (const auto& s : sources)
        for (const Point& p : piece) ASSERT_FALSE(other.contains(p + s.offset));
}

/// Diagonal stripes with a hole, as one level of a completion.
struct Stripes {
    Stripes() {
        level.values.create(kSize, CV_32FC4);
        for (int y = 0; y < kSize.height; ++y)
            for (int x = 0; x < kSize.width; ++x) {
                const float v = 0.5f + 0.4f * std::sin(0.5f * float(x + y));
                level.values.at<cv::Vec4f>(y, x) = {v, v, v, 0};
            }
        level.hole = Mask::zeros(kSize, CV_8U);
        level.forbidden = Mask::zeros(kSize, CV_8U);
        level.guide = Mask::zeros(kSize, CV_8U);
        level.hole(Rect(90, 60, 24, 24)).setTo(255);
    }
    Level level;
};

TEST(PatchMatch, FindsTheLikeOfEachPatchAndNothingOfTheHole) {
    Stripes s;
    s.level.forbidden(Rect(0, 0, 60, 160)).setTo(255);
    PatchMatch match(s.level, 7);
    ASSERT_TRUE(match.possible());
    match.start({});
    match.improve(8, {});
    double off = 0;
    for (const Point& p : match.targets()) {
        const Point m = match.match(p);
        const Rect patch(m.x - PatchMatch::kHalf, m.y - PatchMatch::kHalf,
                         2 * PatchMatch::kHalf + 1, 2 * PatchMatch::kHalf + 1);
        ASSERT_EQ(patch & kWhole, patch);
        ASSERT_EQ(cv::countNonZero(s.level.hole(patch) | s.level.forbidden(patch)), 0);
        off += double(match.distance(p));
    }
    EXPECT_LT(off / double(match.targets().size()), 0.01) << "stripes repeat exactly";
}

TEST(PatchMatch, IsTheSameForTheSameSeedAndAnyNumberOfThreads) {
    Stripes s;
    const auto matches = [&](std::uint32_t seed, int threads) {
        setThreads(threads);
        PatchMatch match(s.level, seed);
        match.start({});
        match.improve(2, {});
        setThreads(0);
        return match.matches().clone();
    };
    EXPECT_TRUE(testkit::equal(matches(3, 1), matches(3, 2)));
    EXPECT_FALSE(testkit::equal(matches(3, 1), matches(4, 1)));
}

TEST(PatchMatch, IsImpossibleWhereNoPatchIsWhole) {
    Stripes s;
    for (int x = 0; x < kSize.width; x += 6) s.level.forbidden.col(x).setTo(255);
    EXPECT_FALSE(PatchMatch(s.level, 1).possible());
}

}  // namespace
}  // namespace gq::mend
