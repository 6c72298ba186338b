#include "core/find/fold.h"

#include <gtest/gtest.h>

#include <opencv2/imgproc.hpp>

#include "core/find/find.h"
#include "core/pixels/color.h"
#include "tests/testkit/pictures.h"

namespace gq::find {
namespace {

const Size kSize(900, 700);
constexpr int kAt = 430;  ///< the line's column

/// Lifts what lies right of the line and lowers what lies left of it, over `reach` px.
Image shaded(const Image& on, double by, int reach, int from = 0, int to = kSize.height) {
    Image out = on.clone();
    for (int d = 2; d < reach; ++d) {
        const double fade = by * 65535 * (1 - double(d) / reach);
        out(Rect(kAt + d, from, 1, to - from)) += cv::Scalar::all(fade);
        out(Rect(kAt - d, from, 1, to - from)) -= cv::Scalar::all(fade);
    }
    return out;
}

/// A light line down the picture.
Image lined(const Image& on, float opacity) {
    Image out = on.clone();
    Image line = out(Rect(kAt - 1, 0, 3, kSize.height));
    line = line * (1 - opacity) + cv::Scalar::all(59000 * opacity);
    return out;
}

bool folded(const Image& picture, int length = kSize.height) {
    const Region line{Rect(kAt - 1, 0, 3, length), Mask(length, 3, CV_8U, cv::Scalar(255))};
    return foldedAlong(luma(picture), line);
}

TEST(FoldedAlong, TellsAFoldFromALineAndFromAnEdge) {
    const Image clean = testkit::sky(kSize);
    EXPECT_FALSE(folded(clean));
    EXPECT_FALSE(folded(lined(clean, 0.35f))) << "no side is lit";
    EXPECT_TRUE(folded(shaded(clean, 0.06, 12)));
    EXPECT_TRUE(folded(shaded(clean, -0.06, 12))) << "lit from the other side";
    Image crossed = shaded(clean, 0.06, 12);
    cv::ellipse(crossed, {kAt + 20, 300}, {60, 40}, 30, 0, 360, cv::Scalar(9000, 9000, 9000), -1);
    EXPECT_TRUE(folded(crossed)) << "something else lies on a part of it";
    EXPECT_FALSE(folded(shaded(clean, 0.06, 12), 250)) << "too short to tell";
    EXPECT_FALSE(folded(shaded(clean, 0.06, 12, 0, 350))) << "along a part only";
    Image edge = clean.clone();
    edge.colRange(kAt, kSize.width) -= cv::Scalar::all(9000);
    EXPECT_FALSE(folded(edge)) << "two tones of the picture meet";
}

TEST(FoldedAlong, IsNotMisledByTexture) {
    EXPECT_FALSE(folded(lined(testkit::grass(kSize), 0.35f)));
    EXPECT_TRUE(folded(shaded(testkit::grass(kSize), 0.08, 14)));
}

TEST(Find, SeesAFaintFoldOfAPrintWholeAndNoneWithoutIt) {
    const auto longest = [](const Image& picture) {
        const auto found = find({picture, 16}, {.origin = Origin::Print});
        EXPECT_TRUE(found);
        float out = 0;
        for (const auto& f : *found)
            if (f.kind == Kind::Crack && f.confidence >= 0.5f && f.region.box.contains({kAt, 350}))
                out = std::max(out, f.measures.length);
        return out;
    };
    const Image clean = testkit::grass(kSize);
    EXPECT_GT(longest(lined(shaded(clean, 0.07, 12), 0.2f)), 300);
    EXPECT_EQ(longest(clean), 0);
}

}  // namespace
}  // namespace gq::find
