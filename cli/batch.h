#pragma once
#include <chrono>

#include "cli/common.h"

namespace gq::cli {

/// Frames worked one after another, any number of them: a line for each, progress with the time
/// left, and at the end the failures once more. With --resume, frames whose file is there already
/// are passed over: a file is written whole or not at all, so what is there is done.
class Batch {
  public:
    Batch(Common& common, size_t frames);
    ~Batch();  ///< lists the failures
    Batch(const Batch&) = delete;
    Batch& operator=(const Batch&) = delete;

    /// Runs `work` for a frame unless `target` stands and is to be kept. `work` returns what its
    /// line says of the frame.
    void frame(const std::filesystem::path& file, const std::filesystem::path& target,
               const std::function<Result<std::string>()>& work);

  private:
    void count(const std::filesystem::path& file);

    Common& m_common;
    size_t m_all, m_done = 0, m_worked = 0;
    std::chrono::steady_clock::time_point m_start = std::chrono::steady_clock::now();
    std::vector<std::string> m_failures;
};

/// Adds --resume.
void addResume(CLI::App& command, Common& common);

}  // namespace gq::cli
