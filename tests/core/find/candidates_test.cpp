#include "core/find/candidates.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/pixels/hash_noise.h"

namespace gq::find {
namespace {

const Size kSize(120, 90);
constexpr float kNoise = 0.01f;

/// A level without anything that departs from its background.
struct Field {
    Field() {
        r.toward = ImageF::zeros(kSize, CV_32F);
        r.noise = ImageF(kSize / 2, CV_32F, cv::Scalar(double(kNoise)));
        level.plan.level = 0;
    }
    void put(const Rect& box, float noises) { r.toward(box).setTo(noises * kNoise); }
    [[nodiscard]] Candidates all(const ImageF& easing = {}, float strength = 1) const {
        return candidatesOf(r, level, Origin::Print, strength, easing, {});
    }
    Residual r;
    Level level;
};

TEST(Candidates, AreTrimmedToAThirdOfTheirPeak) {
    Field f;
    f.put({20, 20, 20, 10}, 3);  // weak, and joined to it
    f.put({30, 22, 5, 5}, 30);
    f.put({80, 60, 9, 9}, 3);  // weak alone
    const auto all = f.all();
    ASSERT_EQ(all.regions.size(), 1u);
    EXPECT_EQ(all.regions[0].box, Rect(30, 22, 5, 5));
    EXPECT_EQ(cv::countNonZero(all.labels == 1), 25);
    EXPECT_EQ(cv::countNonZero(all.labels), 25);
}

TEST(Candidates, JoinedByAWeakBridgeAreTwoInReadingOrder) {
    Field f;
    f.put({20, 40, 40, 4}, 3);
    f.put({55, 40, 4, 4}, 20);
    f.put({20, 41, 4, 3}, 20);
    const auto all = f.all();
    ASSERT_EQ(all.regions.size(), 2u);
    EXPECT_EQ(all.regions[0].box, Rect(55, 40, 4, 4));
    EXPECT_EQ(all.regions[1].box, Rect(20, 41, 4, 3));
    EXPECT_EQ(all.labels.at<int>(42, 21), 2);
}

TEST(Candidates, AreEasedByPlaceAndNeverAsLargeAsThePicture) {
    Field f;
    f.put({20, 20, 5, 5}, 10);
    f.put({80, 20, 5, 5}, 4);  // of 0.04: just too weak
    f.put({20, 60, 100, 20}, 30);
    ImageF easing(kSize, CV_32F, cv::Scalar(1));
    easing(Rect(0, 0, 60, 50)).setTo(0);
    easing(Rect(60, 0, 60, 50)).setTo(2);
    const auto plain = f.all(), eased = f.all(easing);
    ASSERT_EQ(plain.regions.size(), 1u);
    EXPECT_EQ(plain.regions[0].box.x, 20);
    ASSERT_EQ(eased.regions.size(), 1u);
    EXPECT_EQ(eased.regions[0].box.x, 80);
}

TEST(Candidates, OfAWeakerSearchAreSomeOfTheSameOnes) {
    Field f;
    for (int i = 0; i < 7; ++i) {  // ever stronger, each on a faint skirt of its own
        f.put({12 + 16 * i, 30, 11, 9}, 2.5f);
        f.put({15 + 16 * i, 32, 5, 5}, 3 + 2 * float(i));
    }
    const auto boxes = [&](float strength) {
        std::vector<Rect> out;
        for (const auto& r : f.all({}, strength).regions) out.push_back(r.box);
        return out;
    };
    size_t before = 0;
    for (const float strength : {0.5f, 1.0f, 2.0f}) {
        EXPECT_GT(boxes(strength).size(), before) << strength;
        before = boxes(strength).size();
        for (const Rect& box : boxes(strength))
            EXPECT_EQ(std::ranges::count(boxes(2), box), 1) << "outlined alike";
    }
}

TEST(Candidates, AreTheConnectedPiecesOfHysteresis) {
    Field f;
    for (int y = 0; y < kSize.height; ++y)
        for (int x = 0; x < kSize.width; ++x)
            f.r.toward.at<float>(y, x) =
                kNoise * std::abs(5 * fractalNoise(3, float(x) * 0.3f, float(y) * 0.3f, 3) +
                                  2 * hashNormal(5, x, y));
    // Put together from OpenCV's labelling: components over 2.3 that reach 4.4, trimmed, again.
    cv::Mat labels;
    const Mask low = f.r.toward > 2.3f * kNoise;
    Mask strong = Mask::zeros(kSize, CV_8U);
    const int count = cv::connectedComponents(low, labels, 8);
    for (int i = 1; i < count; ++i) {
        const Mask one = labels == i;
        double peak = 0;
        cv::minMaxLoc(f.r.toward, nullptr, &peak, nullptr, nullptr, one);
        if (peak > 0.044 && cv::countNonZero(one) < 0.02 * kSize.area())
            strong |= one & (f.r.toward > peak / 3);
    }
    int expected = 0;
    for (const auto& piece : pieces(strong)) {
        double peak = 0;
        cv::minMaxLoc(f.r.toward(piece.box), nullptr, &peak, nullptr, nullptr, piece.mask);
        expected += piece.area() >= 3 && peak > 0.04;
    }
    EXPECT_GT(expected, 5);
    EXPECT_EQ(int(f.all().regions.size()), expected);
}

TEST(Candidates, StoppedGiveNothing) {
    Field f;
    f.put({20, 20, 5, 5}, 10);
    std::stop_source stop;
    stop.request_stop();
    EXPECT_TRUE(candidatesOf(f.r, f.level, Origin::Print, 1, {}, stop.get_token()).regions.empty());
}

}  // namespace
}  // namespace gq::find
