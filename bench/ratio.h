#pragma once
#include <benchmark/benchmark.h>

#include <filesystem>
#include <string>

#include "core/pixels/image.h"

/// Benchmarks that tell a ratio: ours over a stock function, timed in the same run.
namespace gq::bench {

/// Runs all registered benchmarks; then prints "TITLE: ours / stock = R (at most LIMIT)".
int runRatio(int argc, char** argv, const std::string& title, const std::string& ours,
             const std::string& stock, double limit);

/// A frame of the demo series (GQ_DEMO), by number from 1.
[[nodiscard]] std::filesystem::path demoFrame(int number);
/// A 24 megapixel JPEG made from the first demo frame, kept in the temporary folder.
[[nodiscard]] std::filesystem::path largeFrame();
[[nodiscard]] Image pixelsOf(const std::filesystem::path& file);

}  // namespace gq::bench
