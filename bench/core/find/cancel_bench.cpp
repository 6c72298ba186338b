// From the wish to stop a search of a 24 megapixel frame until it has stopped: asked at moments
// spread over the whole search, the longest of them counts (aim: 100 ms).
#include <chrono>
#include <thread>

#include "bench/ratio.h"
#include "core/pixels/memory.h"
#include "core/render/search.h"

namespace {

using Clock = std::chrono::steady_clock;

double seconds(Clock::duration d) {
    return std::chrono::duration<double>(d).count();
}

void cancel(benchmark::State& state, gq::find::Origin origin) {
    const auto loaded = gq::files::readPicture(gq::bench::largeFrame());
    gq::find::FindPlan plan;
    plan.origin = origin;
    const auto start = Clock::now();
    benchmark::DoNotOptimize(gq::render::search(*loaded, {}, plan));
    const double whole = seconds(Clock::now() - start);
    double longest = 0;
    int moment = 0;
    for (auto _ : state) {
        moment = (moment + 7) % 20;  // 20 moments, in an order that repeats none
        std::stop_source stop;
        Clock::time_point asked;
        std::jthread asker([&, wait = whole * (moment + 0.5) / 20] {
            std::this_thread::sleep_for(std::chrono::duration<double>(wait));
            asked = Clock::now();
            stop.request_stop();
        });
        const auto out = gq::render::search(*loaded, {}, plan, {}, stop.get_token());
        const auto ended = Clock::now();
        asker.join();
        const double took = out ? 0 : seconds(ended - asked);  // it may have ended before
        longest = std::max(longest, took);
        state.SetIterationTime(took);
    }
    state.counters["longest_ms"] = longest * 1e3;
}
BENCHMARK_CAPTURE(cancel, sensor, gq::find::Origin::Sensor)
    ->Iterations(20)
    ->UseManualTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(cancel, negative, gq::find::Origin::Negative)
    ->Iterations(20)
    ->UseManualTime()
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(cancel, print, gq::find::Origin::Print)
    ->Iterations(20)
    ->UseManualTime()
    ->Unit(benchmark::kMillisecond);

}  // namespace

int main(int argc, char** argv) {
    gq::keepFreedMemory();  // as the programs do
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
