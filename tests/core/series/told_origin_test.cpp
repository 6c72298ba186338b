#include "core/series/told_origin.h"

#include <gtest/gtest.h>

#include "sim/film.h"
#include "sim/instrument.h"
#include "tests/testkit/pictures.h"
#include "tests/testkit/scratch.h"

namespace gq::series {
namespace {

using find::Origin;

FramePtr scan(const std::string& file, Size size, double pixelsPerInch, double aperture = 0) {
    auto f = testkit::frameOf("f", size);
    f.file = file;
    f.pixelsPerMm = pixelsPerInch / 25.4;
    f.aperture = aperture;
    return std::make_shared<const Frame>(std::move(f));
}

TEST(ToldOrigin, IsThatOfMostFrames) {
    const auto camera = scan("a.jpg", {6000, 4000}, 0, 8), print = scan("a.tif", {4961, 3508}, 600),
               untold = scan("b.jpg", {3000, 2000}, 0);
    EXPECT_EQ(toldOrigin({camera}), Origin::Sensor);
    EXPECT_EQ(toldOrigin({scan("a.dng", {6000, 4000}, 0)}), Origin::Sensor);
    EXPECT_EQ(toldOrigin({print, camera, print}), Origin::Print);
    EXPECT_EQ(toldOrigin({untold}), std::nullopt);
    EXPECT_EQ(toldOrigin({}), std::nullopt);
}

TEST(ToldOrigin, OfAScanIsToldByTheSizeOfTheOriginal) {
    EXPECT_EQ(toldOrigin({scan("a.tif", {2480, 3508}, 300)}), Origin::Print) << "A4";
    EXPECT_EQ(toldOrigin({scan("a.tif", {24000, 16000}, 300)}), std::nullopt) << "two metres";
    EXPECT_EQ(toldOrigin({scan("a.jpg", {3000, 2000}, 300)}), std::nullopt) << "an exported JPEG";
    EXPECT_EQ(toldOrigin({scan("a.jpg", {6000, 4000}, 600)}), Origin::Print);
}

TEST(ToldOrigin, OfFilmIsToldByItsBase) {
    testkit::Scratch dir;
    const Size size(600, 400);
    const auto negative = [&](sim::Stock stock) {
        return sim::scanned(sim::exposed(sim::renderInstrument(size, 4), stock, 1), stock, 24);
    };
    const auto film = [&](const char* name, const Image& pixels) {
        testkit::write(dir / name, pixels, 16);
        return toldOrigin({scan((dir / name).string(), size, 2400)});
    };
    EXPECT_EQ(film("colour.tif", negative(sim::Stock::Colour)), Origin::Negative);
    EXPECT_EQ(film("silver.tif", negative(sim::Stock::Silver)), Origin::Negative);
    Image slide;
    cv::multiply(sim::renderInstrument(size, 4), cv::Scalar(1, 0.9, 0.8), slide);
    slide.convertTo(slide, CV_16U, 65535);
    EXPECT_EQ(film("slide.tif", slide), Origin::Positive);
}

TEST(ToldOrigin, OfNegativesIsToldByOrangeFilmAroundThem) {
    testkit::Scratch dir;
    const Size size(600, 400);
    const auto frame = [&](const std::string& name, sim::Stock stock, int rim, double aperture) {
        const auto file = dir / name;
        testkit::write(
            file, sim::scanned(sim::exposed(sim::renderInstrument(size, 4), stock, 1), stock, rim),
            16);
        return scan(file.string(), size, 0, aperture);
    };
    const auto untold = frame("untold.tif", sim::Stock::Colour, 24, 0),
               photographed = frame("photographed.tif", sim::Stock::Colour, 24, 8),
               cut = frame("cut.tif", sim::Stock::Colour, 0, 0),
               silver = frame("silver.tif", sim::Stock::Silver, 24, 8);
    EXPECT_EQ(toldOrigin({untold}), Origin::Negative);
    EXPECT_EQ(toldOrigin({photographed}), Origin::Negative);
    EXPECT_EQ(toldOrigin({untold, cut, untold}), Origin::Negative);
    EXPECT_EQ(toldOrigin({cut, cut, untold}), std::nullopt);
    EXPECT_EQ(toldOrigin({silver}), Origin::Sensor) << "a photograph with a white frame";
}

}  // namespace
}  // namespace gq::series
