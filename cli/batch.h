#pragma once
#include "cli/common.h"

namespace gq::cli {

/// One frame of a batch.
struct BatchFrame {
    std::filesystem::path file, target;
    std::function<Result<std::string>()> work;  ///< returns what its line says of the frame
};

/// Works any number of frames, two at a time: a line for each in their order, progress with the
/// time left, and at the end the failures once more. With --resume, frames whose target is there
/// already are passed over: a file is written whole or not at all, so what is there is done.
void runBatch(Common& common, const std::vector<BatchFrame>& frames);

/// Adds --resume.
void addResume(CLI::App& command, Common& common);

}  // namespace gq::cli
