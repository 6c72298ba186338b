#pragma once
#include <functional>
#include <memory>
#include <stop_token>
#include <utility>

namespace gq {

/// Limits all parallel work of the process to `threads` (0 = all cores), until changed.
void setThreads(int threads);

/// Runs `body(i)` for i in [0, count) on all allowed threads; blocks until done or stopped.
/// Returns false if `stop` was requested before every i was run.
bool forEach(int count, const std::function<void(int)>& body, std::stop_token stop = {});

/// As `forEach`, or one after the other on this thread: for work that takes much memory.
inline bool forEachAtOnce(bool atOnce, int count, const std::function<void(int)>& body,
                          std::stop_token stop = {}) {
    if (atOnce) return forEach(count, body, stop);
    for (int i = 0; i < count && !stop.stop_requested(); ++i) body(i);
    return !stop.stop_requested();
}

/// Runs `body(y)` for every row, in bands of about 64 rows.
bool forRows(int rows, const std::function<void(int)>& body, std::stop_token stop = {});

/// What `inOrder` is made of: results by pointer.
bool inOrderOf(int count, const std::function<std::shared_ptr<void>(int)>& work,
               const std::function<void(int, void*)>& take, std::stop_token stop);

/// Runs `work(i)` for i in [0, count), two at a time, and `take(i, result)` in order, one at a
/// time: for whole frames, of which only few may lie in memory. Stopped, the rest is left out.
/// Returns false if `stop` was requested before every i was taken.
template <class Work, class Take>
bool inOrder(int count, Work work, Take take, std::stop_token stop = {}) {
    using Made = decltype(work(0));
    return inOrderOf(
        count, [&](int i) { return std::make_shared<Made>(work(i)); },
        [&](int i, void* made) { take(i, std::move(*static_cast<Made*>(made))); }, stop);
}

/// Called with the share done, 0..1, from any thread.
using Progress = std::function<void(double)>;

/// The progress of a part of the work, from `begin` to `end` of the whole.
[[nodiscard]] inline Progress partOf(const Progress& whole, double begin, double end) {
    if (!whole) return {};
    return [=](double share) { whole(begin + (end - begin) * share); };
}

}  // namespace gq
