// Completing a hole of 500 x 500 px against cv::inpaint (Telea, radius 5) on the same hole.
#include <opencv2/photo.hpp>

#include "bench/ratio.h"
#include "core/mend/patch.h"

namespace {

gq::mend::Mend hole(const gq::Size& size) {
    gq::mend::Mend m;
    const gq::Rect box(size.width / 2 - 250, size.height / 2 - 250, 500, 500);
    m.region = {box, gq::Mask(box.size(), CV_8U, cv::Scalar(255))};
    m.method = gq::mend::Method::Rebuild;
    m.softness = 1;
    return m;
}

void telea(benchmark::State& state) {
    const gq::Image8 image = gq::narrow(gq::bench::pixelsOf(gq::bench::demoFrame(1)));
    gq::Mask mask(image.size(), CV_8U, cv::Scalar(0));
    gq::paint(mask, hole(image.size()).region);
    cv::Mat out;
    for (auto _ : state) cv::inpaint(image, mask, out, 5, cv::INPAINT_TELEA);
}
BENCHMARK(telea)->Unit(benchmark::kMillisecond)->UseRealTime();

void rebuildWith(benchmark::State& state, bool draft) {
    const gq::Image pixels = gq::bench::pixelsOf(gq::bench::demoFrame(1));
    const auto m = hole(pixels.size());
    for (auto _ : state) benchmark::DoNotOptimize(gq::mend::makePatch({pixels, {}, draft}, m));
}
void rebuild(benchmark::State& state) {
    rebuildWith(state, false);
}
void preview(benchmark::State& state) {
    rebuildWith(state, true);
}
BENCHMARK(rebuild)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(preview)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

int main(int argc, char** argv) {
    return gq::bench::runRatio(argc, argv, "rebuild 500 x 500 px / Telea", "rebuild", "telea", 6);
}
