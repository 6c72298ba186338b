// Find on a 24 megapixel frame against cv::imread of the same JPEG.
#include <opencv2/imgcodecs.hpp>

#include "bench/ratio.h"
#include "core/find/find.h"

namespace {

void decode(benchmark::State& state) {
    const auto file = gq::bench::largeFrame();
    for (auto _ : state) benchmark::DoNotOptimize(cv::imread(file.string()));
}
BENCHMARK(decode)->Unit(benchmark::kMillisecond)->UseRealTime();

void find(benchmark::State& state) {
    const gq::Picture picture{gq::bench::pixelsOf(gq::bench::largeFrame()), 8};
    for (auto _ : state) benchmark::DoNotOptimize(gq::find::find(picture, {}));
}
BENCHMARK(find)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

int main(int argc, char** argv) {
    return gq::bench::runRatio(argc, argv, "find / decode, 24 MP", "find", "decode", 2.0);
}
