#include "core/pixels/memory.h"

#include <gtest/gtest.h>

#include <array>
#include <atomic>
#include <fstream>
#include <opencv2/imgproc.hpp>

#include "core/pixels/image.h"
#include "core/pixels/parallel.h"

namespace gq {
namespace {

/// A plane that knows its own values, of some size that `i` tells.
ImageF plane(int i) {
    return ImageF(Size(400 + i % 7 * 200, 300 + i % 5 * 400), CV_32F, cv::Scalar(i));
}

bool intact(const ImageF& p, int i) {
    return cv::countNonZero(p != float(i)) == 0;
}

TEST(PicturesMemory, HoldsWhatIsWrittenThroughReuseFromAllThreads) {
    const ImageF before = plane(3);  // from the usual memory
    keepFreedMemory();
    std::vector<ImageF> kept(60);
    std::atomic<int> spoilt = 0;
    forEach(int(kept.size()), [&](int i) {
        for (int round = 0; round < 20; ++round) {
            ImageF passing = plane(i + round);
            cv::add(passing, 1, passing);
            spoilt += !intact(passing, i + round + 1);
        }
        kept[size_t(i)] = plane(i);
    });
    for (int i = 0; i < int(kept.size()); ++i) spoilt += !intact(kept[size_t(i)], i);
    EXPECT_EQ(spoilt, 0);
    EXPECT_TRUE(intact(before, 3));
}

TEST(PicturesMemory, TakesPartsCopiesAndPlanesOfSeveralDimensions) {
    keepFreedMemory();
    const Image whole(Size(2000, 1500), CV_16UC3, cv::Scalar(1, 2, 3));
    const Image part = whole(Rect(100, 200, 300, 400));
    EXPECT_EQ(part.step, whole.step);
    Image copy = part.clone(), turned;
    cv::rotate(whole, turned, cv::ROTATE_90_CLOCKWISE);
    EXPECT_EQ(turned.at<cv::Vec3w>(1999, 1499), cv::Vec3w(1, 2, 3));
    EXPECT_EQ(copy.at<cv::Vec3w>(399, 299), cv::Vec3w(1, 2, 3));
    const std::array<int, 4> dimensions{8, 3, 200, 300};
    cv::Mat batch(4, dimensions.data(), CV_32F, cv::Scalar(5));
    EXPECT_EQ(cv::countNonZero(batch.reshape(1, 8 * 3 * 200) != 5.0f), 0);
    EXPECT_TRUE(batch.isContinuous());
}

/// Megabytes of this process that lie in memory.
long held() {
    long pages = 0;
    std::ifstream("/proc/self/statm").ignore(20, ' ') >> pages;
    return pages * 4096 / 1000000;
}

TEST(PicturesMemory, KeptForReuseIsNoMoreThanWorkTook) {
#ifdef __SANITIZE_ADDRESS__
    GTEST_SKIP() << "which keeps what is freed for itself";
#endif
    keepFreedMemory();
    const auto work = [](int count, int rows) {
        std::vector<ImageF> planes;
        for (int i = 0; i < count; ++i) planes.emplace_back(rows, 1000, CV_32F, cv::Scalar(i));
        return held();
    };
    const long most = work(10, 8000);  // of 32 MB each
    EXPECT_GE(most, 320);
    for (const int rows : {13000, 21000, 34000}) EXPECT_LT(work(2, rows), most + 40) << rows;
}

}  // namespace
}  // namespace gq
