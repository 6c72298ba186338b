#include "core/pixels/scales.h"

#include <gtest/gtest.h>

#include <opencv2/core.hpp>

#include "core/pixels/pyramid.h"

namespace gq {
namespace {

TEST(Scales, AreHalvesOfHalvesDownToTheSmallest) {
    Image pixels(Size(333, 250), CV_16UC3);
    cv::randu(pixels, 0, 65535);
    const Scales scales(pixels);
    EXPECT_EQ(scales.size(), pixels.size());
    EXPECT_EQ(scales.at(0).data, pixels.data) << "the picture itself is not copied";
    EXPECT_EQ(cv::norm(scales.at(2), halved(halved(pixels)), cv::NORM_INF), 0);
    EXPECT_EQ(scales.at(4).size(), Size(20, 15));
    EXPECT_EQ(scales.at(9).size(), scales.at(4).size());
}

TEST(Scales, OfNothingOrAStripAreThemselves) {
    EXPECT_TRUE(Scales(Image()).empty());
    EXPECT_EQ(Scales(Image(Size(500, 1), CV_16U, cv::Scalar(7))).at(3).size(), Size(500, 1));
}

}  // namespace
}  // namespace gq
