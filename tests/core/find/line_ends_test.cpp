#include "core/find/line_ends.h"

#include <gtest/gtest.h>

#include "core/find/run.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(320, 200);
const PointF kFrom(40, 60), kEnd(160, 90), kTail(190, 97.5f);

/// A light scratch that grows fainter beyond its sure end; `depth` of that part, 0..65535.
Image scratched(const Image& on, int depth) {
    Image out = on.clone();
    const auto lighten = [&](PointF a, PointF b, int by) {
        Mask mask(kSize, CV_8U, cv::Scalar(0));
        paint(mask, stroke({a, b}, 2, kSize));
        cv::add(out, cv::Scalar::all(by), out, mask);
    };
    lighten(kFrom, kEnd, 14000);
    lighten(kEnd, kTail, depth);
    return out;
}

Finding sureLine(float confidence = 0.9f, Polarity polarity = Polarity::Light) {
    Finding f;
    f.kind = Kind::Scratch;
    f.polarity = polarity;
    f.confidence = confidence;
    f.region = stroke({kFrom, kEnd}, 3, kSize);
    f.measures.length = float(cv::norm(kEnd - kFrom));
    f.measures.width = 3;
    return f;
}

Finding followed(Finding line, const Image& pixels) {
    std::vector<Finding> all{std::move(line)};
    followEnds(all, pixels);
    return all.front();
}

TEST(FollowEnds, ALineIsFollowedIntoItsFaintTailAndNoFarther) {
    const Image picture = scratched(testkit::sky(kSize) * 0.5, 7000);
    const Finding longer = followed(sureLine(), picture);
    const Region tail = stroke({kEnd, kTail}, 2, kSize);
    EXPECT_LT(without(tail, grown(longer.region, 1, kSize)).area(), 0.1 * tail.area());
    const Region whole = stroke({kFrom, kTail}, 3, kSize);
    EXPECT_TRUE(without(longer.region, grown(whole, 3, kSize)).empty());
    EXPECT_NEAR(longer.measures.length, cv::norm(kTail - kFrom), 8);
}

TEST(FollowEnds, NothingIsAddedWhereTheLineEndsOrTheGroundIsRough) {
    const auto stays = [](const Finding& line, const Image& pixels) {
        return followed(line, pixels).region.area() - line.region.area();
    };
    EXPECT_LT(stays(sureLine(), scratched(testkit::sky(kSize) * 0.5, 0)), 20);
    EXPECT_LT(stays(sureLine(), testkit::grass(kSize)), 20) << "a blade of grass";
    const Image tailed = scratched(testkit::sky(kSize) * 0.5, 7000);
    EXPECT_EQ(stays(sureLine(0.4f), tailed), 0) << "below the line";
    EXPECT_EQ(stays(sureLine(0.9f, Polarity::Dark), tailed), 0);
    Finding speck = sureLine();
    speck.kind = Kind::Speck;
    EXPECT_EQ(stays(speck, tailed), 0);
}

}  // namespace
}  // namespace gq::find
