#include "core/find/residual.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

/// One pixel's departure as the header tells it: how far its colour has left the range of the
/// medians around it, along the way to a blemish's tone, and what of that points elsewhere.
struct Expected {
    Expected(const Level& level, int x, int y, float tone) {
        const Point cell(std::min(x / 2, level.backdrop.cols - 1),
                         std::min(y / 2, level.backdrop.rows - 1));
        const Rect around =
            Rect(cell.x - 1, cell.y - 1, 3, 3) & Rect({0, 0}, level.backdrop.size());
        const int channels = level.colour.channels();
        std::vector<cv::Mat> medians;
        cv::split(level.backdrop(around).clone(), medians);
        double way = 0, along = 0, whole = 0;
        for (int c = 0; c < channels; ++c) {
            double low = 0, high = 0;
            cv::minMaxLoc(medians[size_t(c)], &low, &high);
            const double v = level.colour.ptr<uchar>(y)[channels * x + c],
                         near = std::clamp(v, low, high), move = (v - near) / 255,
                         sign = tone > 0.5f ? 1 : -1,
                         d = sign * std::max(sign * (double(tone) - near / 255), 0.02);
            const double like = 3.0 / channels;  // grey is three equal channels
            way += like * d * d;
            along += like * move * d;
            whole += like * move * move;
        }
        toward = along / std::sqrt(way);
        across = std::sqrt(std::max(whole - toward * toward, 0.0));
        opacity = toward / std::sqrt(way);
    }
    double toward, across, opacity;
};

TEST(Residual, IsTheMoveTowardsABlemishsTone) {
    const Size size(101, 67);  // no multiple of what is worked on at once
    Image colour = testkit::grass(size, 4), grey;
    colour(Rect(40, 30, 4, 4)).setTo(cv::Scalar::all(63000));
    cv::extractChannel(colour, grey, 1);
    for (const Image& pixels : {colour, grey})
        for (const auto& [origin, polarity] :
             {std::pair(Origin::Print, Polarity::Dark), std::pair(Origin::Print, Polarity::Light),
              std::pair(Origin::Negative, Polarity::Light)}) {
            const Level level = levelOf(pixels, levelsOf(origin, size)[0], origin, {});
            const Residual r = residualOf(level, origin, polarity, {});
            for (int y = 0; y < size.height; y += 3)
                for (int x = 0; x < size.width; ++x) {
                    const Expected e(level, x, y, toneOf(origin, polarity));
                    ASSERT_NEAR(double(r.toward.at<float>(y, x)), e.toward, 1e-5) << x << ' ' << y;
                    ASSERT_NEAR(double(r.across.at<float>(y, x)), e.across, 1e-3) << x << ' ' << y;
                    ASSERT_NEAR(double(r.opacity.at<float>(y, x)), e.opacity, 1e-4);
                }
        }
}

TEST(Residual, OfASensorShadowIsTheLogOfWhatItHoldsBack) {
    const Size size(300, 240);
    const Image clean = testkit::sky(size, 2);
    const auto at = [&](const Image& pixels) {
        const Level level = tonesOf(pixels, levelsOf(Origin::Sensor, size)[0], {});
        return residualOf(level, Origin::Sensor, Polarity::Dark, {});
    };
    const Residual r = at(testkit::dusty(clean, {{{150, 120}, 3, 0.2f}}));
    EXPECT_NEAR(r.toward.at<float>(120, 150), -std::log(1 - 0.2f), 0.06);
    EXPECT_LT(std::abs(r.toward.at<float>(60, 60)), 0.03);
    EXPECT_LT(r.noiseAt({150, 120}), 2 * at(clean).noiseAt({150, 120}))
        << "a blemish does not raise its own threshold";
}

}  // namespace
}  // namespace gq::find
