#include "core/pixels/parallel.h"

#include <tbb/blocked_range.h>
#include <tbb/global_control.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_pipeline.h>

#include <memory>
#include <opencv2/core.hpp>
#include <thread>

namespace gq {

void setThreads(int threads) {
    static std::unique_ptr<tbb::global_control> limit;
    const auto n = threads > 0 ? unsigned(threads) : std::thread::hardware_concurrency();
    limit.reset();
    limit = std::make_unique<tbb::global_control>(tbb::global_control::max_allowed_parallelism, n);
    cv::setNumThreads(int(n));
}

bool forEach(int count, const std::function<void(int)>& body, std::stop_token stop) {
    tbb::parallel_for(
        0, count,
        [&](int i) {
            if (!stop.stop_requested()) body(i);
        },
        tbb::simple_partitioner());  // bodies may differ much: a thread takes one at a time
    return !stop.stop_requested();
}

bool forRows(int rows, const std::function<void(int)>& body, std::stop_token stop) {
    tbb::parallel_for(tbb::blocked_range<int>(0, rows, 64), [&](const auto& band) {
        if (stop.stop_requested()) return;
        for (int y = band.begin(); y < band.end(); ++y) body(y);
    });
    return !stop.stop_requested();
}

bool inOrderOf(int count, const std::function<std::shared_ptr<void>(int)>& work,
               const std::function<void(int, void*)>& take, std::stop_token stop) {
    constexpr size_t kTogether = 2;
    using Made = std::pair<int, std::shared_ptr<void>>;
    int next = 0;
    tbb::parallel_pipeline(
        kTogether,
        tbb::make_filter<void, int>(tbb::filter_mode::serial_in_order,
                                    [&](tbb::flow_control& flow) {
                                        if (next == count || stop.stop_requested()) flow.stop();
                                        return next++;
                                    }) &
            tbb::make_filter<int, Made>(tbb::filter_mode::parallel,
                                        [&](int i) { return Made(i, work(i)); }) &
            tbb::make_filter<Made, void>(tbb::filter_mode::serial_in_order, [&](const Made& made) {
                take(made.first, made.second.get());
            }));
    return !stop.stop_requested();
}

}  // namespace gq
