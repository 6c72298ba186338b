#include "core/film/film_base.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "sim/film.h"
#include "sim/instrument.h"
#include "tests/testkit/pictures.h"

namespace gq::film {
namespace {

using sim::Stock;

const Size kSize(480, 320);
constexpr int kRim = 14;
const std::array<float, 3> kMasked{0.78f, 0.40f, 0.22f};  ///< what the simulated stock has

Image scanOf(Stock stock, int rim) {
    return sim::scanned(sim::exposed(sim::renderInstrument(kSize, 4), stock, 1), stock, rim);
}

Image framed(const Image& scan, int down, int across, float light) {
    Image out;
    cv::copyMakeBorder(scan, out, down, down, across, across, cv::BORDER_CONSTANT,
                       cv::Scalar::all(fromLinear(light)));
    return out;
}

void expectMasked(const std::optional<FilmBase>& base) {
    ASSERT_TRUE(base);
    EXPECT_TRUE(base->bare);
    for (size_t c = 0; c < 3; ++c) EXPECT_NEAR(base->light[c], kMasked[c], 0.02);
}

TEST(FilmBase, IsFoundOnABareRim) {
    const auto base = findBase(scanOf(Stock::Colour, kRim));
    expectMasked(base);
    EXPECT_GT(base->rim, 0.95);
    EXPECT_TRUE(base->tellsNegative());
    EXPECT_TRUE(findBase(scanOf(Stock::Silver, kRim))->tellsNegative());
}

TEST(FilmBase, IsFoundAlongOneEdge) {
    const Image scan = scanOf(Stock::Colour, kRim);
    expectMasked(findBase(scan(Rect(kRim, kRim, kSize.width, kSize.height + kRim))));
}

TEST(FilmBase, OfTwoLongEdgesTellsAMaskedNegative) {
    const Image scan = scanOf(Stock::Colour, kRim);
    const auto base = findBase(scan.colRange(kRim, kRim + kSize.width));
    expectMasked(base);
    EXPECT_TRUE(base->tellsNegative());
}

TEST(FilmBase, IsFoundInAHolderAndBesideOpenLight) {
    const Image scan = scanOf(Stock::Colour, kRim);
    for (const Image& held : {framed(scan, 20, 20, 0.001f), framed(scan, 20, 0, 0.98f)}) {
        const auto base = findBase(held);
        expectMasked(base);
        EXPECT_TRUE(base->tellsNegative());
    }
}

TEST(FilmBase, IsReadFromTheThinnestPlacesWhereNoneIsBare) {
    Image scan = scanOf(Stock::Colour, 0);
    const auto base = findBase(scan);
    ASSERT_TRUE(base);
    EXPECT_FALSE(base->tellsNegative());
    EXPECT_FALSE(base->bare);
    std::vector<cv::Mat> channels;
    cv::split(scan, channels);
    for (size_t c = 0; c < 3; ++c) {
        const double brighter = cv::countNonZero(channels[c] > fromLinear(base->light[c]));
        EXPECT_NEAR(brighter / double(scan.total()), 0.003, 0.003);
        EXPECT_LT(base->light[c], kMasked[c] + 0.02);
    }
}

TEST(FilmBase, IsNotMadeUpForAnEvenPicture) {
    EXPECT_FALSE(findBase(Image(kSize, CV_16UC3, cv::Scalar::all(30000))));
}

TEST(FilmBase, IsLookedForInStripsAndSpecksOfPictures) {
    for (const Size size : {Size(1, 1), Size(3, 200), Size(9000, 16)}) {
        const Image picture(size, CV_16UC3, cv::Scalar::all(30000));
        EXPECT_FALSE(findBase(picture));
        const Rect part = exposedPart(picture, kMasked);
        EXPECT_EQ(part & Rect({0, 0}, size), part);
    }
}

TEST(FilmBase, DoesNotTakePositivesForNegatives) {
    for (const Image& picture : {testkit::sky(kSize), testkit::grass(kSize)}) {
        const auto base = findBase(picture);
        EXPECT_FALSE(base && base->tellsNegative());
    }
}

TEST(ExposedPart, LeavesOutRimAndHolder) {
    const Image scan = framed(scanOf(Stock::Colour, kRim), 20, 30, 0.001f);
    const Rect picture(30 + kRim, 20 + kRim, kSize.width, kSize.height);
    const Rect part = exposedPart(scan, kMasked);
    EXPECT_EQ(part & picture, part);
    EXPECT_GT(part.area(), 0.75 * picture.area());
}

}  // namespace
}  // namespace gq::film
