#include "core/merge/align.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::merge {
namespace {

const Size kSize(800, 600);

/// The scene seen from a camera moved and turned a little: `map` leads from it to the scene.
Image seenBy(const Image& scene, const cv::Matx33d& map) {
    Image out;
    cv::warpPerspective(scene, out, map, kSize, cv::INTER_CUBIC | cv::WARP_INVERSE_MAP,
                        cv::BORDER_REFLECT);
    return out;
}

const double kTurn = 0.02;
const cv::Matx33d kMoved(std::cos(kTurn), -std::sin(kTurn), 37.4, std::sin(kTurn), std::cos(kTurn),
                         -18.3, 0, 0, 1);

TEST(Alignment, FindsHowAFrameLiesOnAnother) {
    const Image scene = testkit::stones(kSize);
    const auto map = alignment(seenBy(scene, kMoved), scene);
    ASSERT_TRUE(map) << map.error().message();
    for (const cv::Vec3d& p :
         {cv::Vec3d(150, 380, 1), cv::Vec3d(400, 450, 1), cv::Vec3d(650, 500, 1)}) {
        const cv::Vec3d is = *map * p, should = kMoved * p;
        EXPECT_NEAR(is[0] / is[2], should[0], 1.5);
        EXPECT_NEAR(is[1] / is[2], should[1], 1.5);
    }
}

TEST(Alignment, RefusesAnotherScene) {
    const auto map = alignment(testkit::stones(kSize), testkit::sky(kSize));
    ASSERT_FALSE(map);
    EXPECT_EQ(map.error().kind, Error::Kind::BadSetting);
}

TEST(Settled, GivesThePlaceToAFractionOfAPixel) {
    const Image scene = testkit::stones(kSize), frame = seenBy(scene, kMoved);
    cv::Matx33d rough = kMoved;
    rough(0, 2) += 2.3;  // as far off as features may be
    const Rect box(300, 400, 120, 100);
    Mask hole = Mask::zeros(box.size(), CV_8U);
    cv::circle(hole, {60, 50}, 15, 255, -1);
    const auto part = settled(frame, rough, scene, box, hole);
    ASSERT_TRUE(part) << part.error().message();
    ASSERT_EQ(part->size(), box.size());
    const auto likeness = [&](const cv::Matx33d& map) {
        const cv::Matx33d toBox(1, 0, -box.x, 0, 1, -box.y, 0, 0, 1);
        Image laid;
        cv::warpPerspective(frame, laid, toBox * map, box.size(), cv::INTER_CUBIC);
        return testkit::psnr(laid, scene(box), Mask(box.size(), CV_8U, cv::Scalar(255)));
    };
    const double settledTo =
        testkit::psnr(*part, scene(box), Mask(box.size(), CV_8U, cv::Scalar(255)));
    EXPECT_GT(settledTo, likeness(kMoved) - 1.5) << "as the true map would lay it";
    EXPECT_GT(settledTo, likeness(rough) + 3);
}

TEST(Settled, RefusesAPlaceThatLooksDifferentOrLiesOutside) {
    const Image scene = testkit::stones(kSize);
    Image other = testkit::grass(kSize, 3);
    const Rect box(300, 400, 120, 100);
    const Mask hole = Mask::zeros(box.size(), CV_8U);
    EXPECT_FALSE(settled(other, cv::Matx33d::eye(), scene, box, hole));
    cv::Matx33d far = cv::Matx33d::eye();
    far(0, 2) = 700;
    EXPECT_FALSE(settled(scene, far, scene, box, hole));
}

}  // namespace
}  // namespace gq::merge
