#include "core/pixels/median.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

namespace gq {
namespace {

TEST(Median, IsTheMiddleOfTheSquareAroundEachPixel) {
    for (const Size size : {Size(83, 611), Size(5, 4), Size(640, 300)})
        for (const int type : {CV_8UC1, CV_8UC3}) {
            Image8 plane(size, type), expected;
            cv::theRNG().state = 3;
            cv::randu(plane, 0, 256);
            for (const int side : {5, 7, 21}) {
                cv::medianBlur(plane, expected, side);
                EXPECT_EQ(cv::norm(median(plane, side), expected, cv::NORM_INF), 0)
                    << size << ' ' << plane.channels() << ' ' << side;
            }
        }
}

}  // namespace
}  // namespace gq
