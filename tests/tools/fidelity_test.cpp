#include "tools/accuracy/fidelity.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::accuracy {
namespace {

const Size kSize(240, 180);

/// A picture with a white blot, and its outline with a little around it.
struct Blotted : testing::Test {
    Image truth = testkit::grass(kSize);
    Image worn = withBlot(truth, {120, 90}, 12);
    Mask where = Mask(kSize, CV_8U, cv::Scalar(0));
    Blotted() { cv::circle(where, {120, 90}, 14, cv::Scalar(255), cv::FILLED); }

    static Image withBlot(const Image& on, Point at, int radius) {
        Image out = on.clone();
        cv::circle(out, at, radius, cv::Scalar::all(65535), cv::FILLED);
        return out;
    }
};

using OfMends = Blotted;

TEST_F(OfMends, ThatAreTheTruthIsPerfect) {
    const auto f = fidelity(truth, worn, truth, where);
    EXPECT_GT(f.plain, 100);
    EXPECT_NEAR(f.ssim, 1, 1e-6);
    EXPECT_NEAR(f.texture, 1, 1e-6);
    ASSERT_TRUE(f.seam);
    EXPECT_NEAR(*f.seam, 1, 0.3);
    EXPECT_EQ(f.places, 1);
}

TEST_F(OfMends, SeesASeamAndLostTexture) {
    Image flat = truth.clone();
    flat.setTo(cv::mean(truth) + cv::Scalar::all(9000), where);
    const auto f = fidelity(flat, worn, truth, where);
    EXPECT_LT(f.texture, 0.8);
    ASSERT_TRUE(f.seam);
    EXPECT_GT(*f.seam, 1.5);
}

TEST_F(OfMends, TakesOtherWearBesideThemForNoSeam) {
    const double alone = fidelity(truth, worn, truth, where).seam.value_or(0);
    worn = withBlot(worn, {142, 90}, 10);
    Image mended = worn.clone();
    truth.copyTo(mended, where);
    EXPECT_NEAR(fidelity(mended, worn, truth, where).seam.value_or(0), alone, 0.15);
}

}  // namespace
}  // namespace gq::accuracy
