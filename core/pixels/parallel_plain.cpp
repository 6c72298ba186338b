// The same as parallel.cpp by plain threads: a sanitizer does not see what TBB waits for, since TBB
// is not built with it. Used where GQ_PLAIN_THREADS is set.
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <opencv2/core.hpp>
#include <thread>
#include <vector>

#include "core/pixels/parallel.h"

namespace gq {
namespace {

std::atomic<unsigned> allowed{0};
thread_local bool inside = false;  ///< work within work stays on its thread

/// Runs `body(i)` for i in [0, count), each taken by whichever thread is free.
void share(int count, const std::function<void(int)>& body) {
    const unsigned limit = allowed ? allowed.load() : std::thread::hardware_concurrency();
    const auto n = std::min(unsigned(std::max(count, 0)), limit);
    std::atomic<int> next{0};
    const auto work = [&] {
        const bool outer = std::exchange(inside, true);
        for (int i = next++; i < count; i = next++) body(i);
        inside = outer;
    };
    std::vector<std::jthread> others;
    if (!inside)
        for (unsigned i = 1; i < n; ++i) others.emplace_back(work);
    work();
}

}  // namespace

void setThreads(int threads) {
    allowed = unsigned(std::max(threads, 0));
    cv::setNumThreads(threads);
}

bool forEach(int count, const std::function<void(int)>& body, std::stop_token stop) {
    share(count, [&](int i) {
        if (!stop.stop_requested()) body(i);
    });
    return !stop.stop_requested();
}

bool forRows(int rows, const std::function<void(int)>& body, std::stop_token stop) {
    constexpr int kBand = 64;
    share((rows + kBand - 1) / kBand, [&](int band) {
        if (stop.stop_requested()) return;
        for (int y = band * kBand; y < std::min(rows, (band + 1) * kBand); ++y) body(y);
    });
    return !stop.stop_requested();
}

bool inOrderOf(int count, const std::function<std::shared_ptr<void>(int)>& work,
               const std::function<void(int, void*)>& take, std::stop_token stop) {
    std::mutex mutex;
    std::condition_variable_any turn;
    int due = 0;
    share(count, [&](int i) {
        if (stop.stop_requested()) return;
        const auto made = work(i);
        std::unique_lock lock(mutex);
        if (!turn.wait(lock, stop, [&] { return due == i; })) return;
        take(i, made.get());
        ++due;
        turn.notify_all();
    });
    return !stop.stop_requested();
}

}  // namespace gq
