#include "core/render/viewing_light.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "tests/testkit/pictures.h"

namespace gq::render {
namespace {

double contrastAt(const Image8& image, Point at) {
    return std::abs(cv::mean(image(Rect(at.x - 3, at.y - 3, 6, 6)))[0] -
                    cv::mean(image(Rect(at.x + 40, at.y - 3, 6, 6)))[0]);
}

TEST(ViewingLight, RakingBringsOutAFaintShadow) {
    const Image8 tile = narrow(testkit::dusty(testkit::sky({300, 200}), {{{150, 100}, 8, 0.03f}}));
    EXPECT_GT(contrastAt(lit(tile, {Light::Raking}, 0), {150, 100}),
              4 * contrastAt(tile, {150, 100}));
}

TEST(ViewingLight, GainRaisesTheRelief) {
    const Image8 tile = narrow(testkit::dusty(testkit::sky({300, 200}), {{{150, 100}, 8, 0.03f}}));
    EXPECT_GT(contrastAt(lit(tile, {Light::Raking, 24, 12}, 0), {150, 100}),
              contrastAt(lit(tile, {Light::Raking, 24, 3}, 0), {150, 100}));
}

TEST(ViewingLight, PlainShowsThePictureItself) {
    const Image8 tile = narrow(testkit::sky({50, 50}));
    EXPECT_TRUE(testkit::equal(lit(tile, {}, 0), tile));
    EXPECT_LT(cv::mean(lit(tile, {Light::Low}, 0))[0], cv::mean(tile)[0]);
}

TEST(ViewingLight, WhatFindSeesIsTheSameInATileAsInTheWhole) {
    const Size size(1024, 768);
    const Image8 whole = narrow(testkit::dusty(testkit::grass(size), {{{380, 380}, 12, 0.5f}}));
    const ViewingLight light{Light::Sought};
    const Rect tile(256, 256, 256, 256);
    const int m = margin(light, 0);
    const Rect outer(tile.x - m, tile.y - m, tile.width + 2 * m, tile.height + 2 * m);
    const Image8 alone = lit(whole(outer).clone(), light, 0)(Rect({m, m}, tile.size()));
    EXPECT_LE(cv::norm(alone, lit(whole, light, 0)(tile), cv::NORM_INF), 1);
}

}  // namespace
}  // namespace gq::render
