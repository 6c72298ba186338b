#include "sim/write_once.h"

#include <atomic>
#include <vector>

#include "core/files/safe_write.h"

namespace gq::sim {
namespace fs = std::filesystem;

Status writeOnce(const fs::path& frames, const fs::path& truth, const std::string& stamp, int count,
                 const std::function<Status(int)>& writeFrame, const Progress& progress,
                 std::stop_token stop) {
    if (const auto old = files::readText(truth / "stamp"); old && *old == stamp) return {};
    std::error_code code;
    fs::create_directories(frames, code);
    fs::create_directories(truth, code);
    std::vector<Status> done(static_cast<size_t>(count));
    std::atomic<int> written{0};
    const bool all = forEach(
        count,
        [&](int i) {
            done[size_t(i)] = writeFrame(i);
            if (progress) progress(double(++written) / count);
        },
        stop);
    if (!all) return cancelled();
    for (auto& one : done)
        if (!one) return one;
    return files::writeTextSafely(truth / "stamp", stamp);
}

}  // namespace gq::sim
