#include "core/find/context.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

namespace gq::find {
namespace {

const Size kSize(320, 240);

/// A level of random residuals with candidates of one pixel each.
struct Scene {
    explicit Scene(const std::vector<Point>& places) {
        for (auto* plane : {&r.toward, &level.gradient}) {
            plane->create(kSize, CV_32F);
            cv::randu(*plane, -1, 1);
        }
        r.noise = ImageF(kSize / 2, CV_32F, cv::Scalar(0.5));
        all.labels = cv::Mat::zeros(kSize, CV_32S);
        for (const Point& p : places) {
            all.regions.push_back({Rect(p, Size(1, 1)), Mask::ones(1, 1, CV_8U)});
            all.labels.at<int>(p) = int(all.regions.size());
        }
    }
    Level level;
    Residual r;
    Candidates all;
};

/// Mean over a window of the plane pooled four to one, mirrored at its borders.
ImageF windowMean(const ImageF& plane, int window) {
    ImageF pooled, out;
    cv::resize(plane, pooled, kSize / Context::kPool, 0, 0, cv::INTER_AREA);
    const int side = window / Context::kPool | 1;
    cv::blur(pooled, out, {side, side}, {-1, -1}, cv::BORDER_REFLECT);
    return out;
}

TEST(Context, TellsMeansOverWindowsAnywhere) {
    const Scene s({});
    const Context context(s.level, s.r, s.all, {});
    const ImageF size = cv::abs(s.r.toward);
    for (size_t w = 0; w < 3; ++w) {
        const ImageF sizes = windowMean(size, Context::kWindows[w]),
                     squares = windowMean(size.mul(size), Context::kWindows[w]),
                     steep = windowMean(s.level.gradient, Context::kWindows[w]);
        for (const Point p : {Point(0, 0), Point(319, 239), Point(160, 120), Point(3, 200)}) {
            EXPECT_NEAR(context.size(p, w), sizes.at<float>(p / Context::kPool), 1e-4);
            EXPECT_NEAR(context.square(p, w), squares.at<float>(p / Context::kPool), 1e-4);
            EXPECT_NEAR(context.gradient(p, w), steep.at<float>(p / Context::kPool), 1e-4);
        }
    }
}

TEST(Context, CountsNeighboursAndNobodyBeyondTheBorder) {
    const Scene s({{2, 2}, {12, 6}, {100, 100}});
    const Context context(s.level, s.r, s.all, {});
    EXPECT_FLOAT_EQ(context.count({2, 2}, 0), 2);
    EXPECT_FLOAT_EQ(context.count({100, 100}, 0), 1);
    EXPECT_FLOAT_EQ(context.count({50, 50}, 2), 3);
    EXPECT_FLOAT_EQ(context.count({319, 239}, 0), 0);
    EXPECT_FLOAT_EQ(context.overallNoise(), 0.5);
}

}  // namespace
}  // namespace gq::find
