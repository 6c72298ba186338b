#pragma once
#include <functional>
#include <stop_token>

namespace gq {

/// Limits all parallel work of the process to `threads` (0 = all cores), until changed.
void setThreads(int threads);

/// Runs `body(i)` for i in [0, count) on all allowed threads; blocks until done or stopped.
/// Returns false if `stop` was requested before every i was run.
bool forEach(int count, const std::function<void(int)>& body, std::stop_token stop = {});

/// Runs `body(y)` for every row, in bands of about 64 rows.
bool forRows(int rows, const std::function<void(int)>& body, std::stop_token stop = {});

/// Called with the share done, 0..1, from any thread.
using Progress = std::function<void(double)>;

}  // namespace gq
