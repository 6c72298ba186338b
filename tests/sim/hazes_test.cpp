// Broad marks of a lens, laid on the demo series, against what its frames tell together.
#include <gtest/gtest.h>

#include "core/carry/chart.h"
#include "core/files/folder_scan.h"
#include "core/pixels/color.h"
#include "core/render/export.h"
#include "sim/wear_shapes.h"
#include "tests/testkit/scratch.h"

namespace gq {
namespace {

struct Mark {
    PointF at;     ///< share of the sensor's width and height
    float radius;  ///< share of its width
};
constexpr float kDepth = 0.12f;

/// The picture through a lens with a mark on it; `frame` tells how the picture lies on the sensor.
Image marked(const Image& half, const series::Frame& frame, const Mark& mark) {
    FrameGeometry g = frame.geometry;
    g.stored = half.size();
    const Size sensor = g.sensorSize();
    const PointF at =
        g.fromSensor({mark.at.x * float(sensor.width), mark.at.y * float(sensor.height)});
    const float radius = mark.radius * float(sensor.width);
    sim::Dice dice(3);
    const auto cover = sim::blob(at, radius, 1.4f * radius, 1.1f, dice, half.size());
    Image out = half.clone();
    for (int y = 0; y < cover.box.height; ++y)
        for (int x = 0; x < cover.box.width; ++x)
            for (int c = 0; c < 3; ++c) {
                auto& v = out.at<cv::Vec<ushort, 3>>(cover.box.y + y, cover.box.x + x)[c];
                v = fromLinear(toLinear(v) * (1 - kDepth * cover.share.at<float>(y, x)));
            }
    return out;
}

TEST(Hazes, OfALensAreToldByTheSeriesAndNoneIsMadeUp) {
    const auto demo = testkit::demoFolder() / "cloud-watch";
    if (!std::filesystem::exists(demo / "CW-012.jpg"))
        GTEST_SKIP() << "set GQ_DEMO to the rendered demo (./dev test does)";
    std::vector<Error> faults;
    const auto series = series::makeSeries(files::pictureFiles({demo}), "demo", faults);
    const std::vector<std::vector<Mark>> lenses{
        {},
        {{{0.25f, 0.17f}, 0.025f}, {{0.60f, 0.22f}, 0.025f}},
        {{{0.76f, 0.26f}, 0.04f}, {{0.42f, 0.35f}, 0.04f}}};
    std::vector<carry::Consensus> together(lenses.size());
    const auto& first = *series.frames.front();
    const auto half = render::chartPixels(first);
    for (const auto& f : series.frames) {
        const auto pixels = half(*f, {});
        ASSERT_TRUE(pixels);
        for (size_t i = 0; i < lenses.size(); ++i) {
            Image seen = *pixels;
            for (const auto& mark : lenses[i]) seen = marked(seen, *f, mark);
            const auto say = carry::Consensus::listen(seen, first, *f);
            ASSERT_TRUE(say);
            together[i].add(*say);
        }
    }
    int found = 0, others = 0;
    const Size sensor = first.geometry.sensorSize();
    for (size_t i = 0; i < lenses.size(); ++i) {
        const auto chart = together[i].chart();
        ASSERT_TRUE(chart);
        for (const auto& haze : chart->hazes)
            ++(std::any_of(lenses[i].begin(), lenses[i].end(),
                           [&](const Mark& m) {
                               return haze.region.contains({int(m.at.x * float(sensor.width)),
                                                            int(m.at.y * float(sensor.height))});
                           })
                   ? found
                   : others);
    }
    std::printf("hazes of 12 frames: %d of 4 found, %d made up\n", found, others);
    EXPECT_GE(found, 3);
    EXPECT_EQ(others, 0);
}

}  // namespace
}  // namespace gq
