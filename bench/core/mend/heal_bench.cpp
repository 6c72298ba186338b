// Healing 200 specks of a 24 megapixel frame against cv::inpaint (Telea, radius 5) on the same
// mask.
#include <opencv2/photo.hpp>

#include "bench/ratio.h"
#include "core/pixels/hash_noise.h"
#include "core/pixels/region.h"
#include "core/render/compose.h"

namespace {

std::vector<gq::Region> specks(const gq::Size& size) {
    std::vector<gq::Region> out;
    for (int i = 0; i < 200; ++i)
        out.push_back(gq::disc({gq::hashUniform(1, i, 0) * float(size.width),
                                gq::hashUniform(1, i, 1) * float(size.height)},
                               3 + 6 * gq::hashUniform(1, i, 2), size));
    return out;
}

void telea(benchmark::State& state) {
    const gq::Image8 image = gq::narrow(gq::bench::pixelsOf(gq::bench::largeFrame()));
    gq::Mask mask(image.size(), CV_8U, cv::Scalar(0));
    for (const auto& s : specks(image.size())) gq::paint(mask, s);
    cv::Mat out;
    for (auto _ : state) cv::inpaint(image, mask, out, 5, cv::INPAINT_TELEA);
}
BENCHMARK(telea)->Unit(benchmark::kMillisecond)->UseRealTime();

void heal(benchmark::State& state) {
    const gq::Image pixels = gq::bench::pixelsOf(gq::bench::largeFrame());
    gq::series::Frame frame;
    frame.geometry.stored = pixels.size();
    gq::series::Id id = 1;
    for (auto& s : specks(pixels.size())) {
        gq::mend::Mend m;
        m.region = s;
        m.softness = 1;
        frame.mends.push_back({id++, m, 0, false});
    }
    gq::Image out = pixels.clone();
    for (auto _ : state) {
        const auto made = gq::render::Composer().compose(pixels, frame, 0);
        if (!made || !made->faults.empty()) return state.SkipWithError("a mend was not made");
        made->picture.layOn(out);
    }
}
BENCHMARK(heal)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

int main(int argc, char** argv) {
    return gq::bench::runRatio(argc, argv, "heal 200 specks / Telea, 24 MP", "heal", "telea", 0.25);
}
