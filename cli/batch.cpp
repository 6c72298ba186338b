#include "cli/batch.h"

#include <fmt/core.h>

namespace gq::cli {
namespace fs = std::filesystem;

Batch::Batch(Common& common, size_t frames) : m_common(common), m_all(frames) {}

Batch::~Batch() {
    if (m_failures.empty() || m_all < 2) return;
    fmt::print(stderr, "gquill: {} of {} frames failed:\n", m_failures.size(), m_all);
    for (const auto& f : m_failures) fmt::print(stderr, "  {}\n", f);
}

void Batch::frame(const fs::path& file, const fs::path& target,
                  const std::function<Result<std::string>()>& work) {
    std::error_code code;
    if (m_common.resume && fs::exists(target, code)) {
        fmt::print("{}: done before\n", file.string());
        return count(file);
    }
    const auto said = work();
    ++m_worked;
    if (said) {
        fmt::print("{}: {}\n", file.string(), *said);
        std::fflush(stdout);
    } else {
        complain(m_common, said.error());
        m_failures.push_back(said.error().message());
    }
    count(file);
}

void Batch::count(const fs::path& file) {
    ++m_done;
    const std::chrono::duration<double> so = std::chrono::steady_clock::now() - m_start;
    std::optional<double> left;
    if (m_worked > 0) left = so.count() / double(m_worked) * double(m_all - m_done);
    report(m_common, file.string(), m_done, m_all, left);
}

void addResume(CLI::App& command, Common& common) {
    command.add_flag("--resume", common.resume,
                     "pass over frames whose file is there already, after an earlier run was cut "
                     "short");
}

}  // namespace gq::cli
