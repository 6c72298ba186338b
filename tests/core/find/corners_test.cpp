#include "core/find/corners.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

namespace gq::find {
namespace {

constexpr int kRim = 60;

/// A dark frame on clear film.
Image frameOnFilm() {
    Image out(Size(400, 300), CV_16UC3, cv::Scalar::all(60000));
    out(Rect(kRim, kRim, 400 - 2 * kRim, 300 - 2 * kRim)).setTo(cv::Scalar::all(14000));
    return out;
}

/// As a corner comes out of a search: along both of its sides.
Finding bent(const Rect& box, bool right, bool bottom) {
    Mask mask(box.size(), CV_8U, cv::Scalar(0));
    constexpr int kWide = 9;
    mask(Rect(right ? box.width - kWide : 0, 0, kWide, box.height)).setTo(255);
    mask(Rect(0, bottom ? box.height - kWide : 0, box.width, kWide)).setTo(255);
    Finding f;
    f.region = {box, mask};
    f.confidence = 0.6f;
    return f;
}

TEST(Corners, OfAFrameAreNoDust) {
    const Image film = frameOnFilm();
    std::vector<Finding> all{bent({kRim, kRim, 41, 41}, false, false),
                             bent({400 - kRim - 41, kRim, 41, 41}, true, false),
                             bent({kRim, 300 - kRim - 41, 41, 41}, false, true),
                             bent({400 - kRim - 41, 300 - kRim - 41, 41, 41}, true, true)};
    leaveOutCorners(all, film);
    EXPECT_TRUE(all.empty());
}

TEST(Corners, DustOnFilmStays) {
    Image film = frameOnFilm();
    const Rect onRim(20, 200, 30, 30), inFrame(200, 150, 12, 12), acrossEdge(kRim - 6, 150, 12, 12);
    std::vector<Finding> all{bent(onRim, false, true), bent(inFrame, true, true),
                             bent(acrossEdge, true, true)};
    for (const auto& f : all) film(f.region.box).setTo(cv::Scalar::all(2000), f.region.mask);
    const size_t before = all.size();
    leaveOutCorners(all, film);
    EXPECT_EQ(all.size(), before);
}

}  // namespace
}  // namespace gq::find
