#pragma once
#include "cli/common.h"

namespace gq::cli {

/// One frame of a batch.
struct BatchFrame {
    std::filesystem::path file, companion;       ///< originals; a pair has the second
    std::vector<std::filesystem::path> targets;  ///< what is written of it
    /// Returns what its line says of the frame. `again`: some of its files are there from a run
    /// that was cut short, and are written anew.
    std::function<Result<std::string>(bool again)> work;
};

/// Works any number of frames, two at a time: a line for each in their order, progress with the
/// time left, and at the end the failures once more. No frame is written onto an original or to
/// where one before it goes. With --resume, frames whose targets are all there are passed over: a
/// file is written whole or not at all, so what is there is done.
void runBatch(Common& common, const std::vector<BatchFrame>& frames);

/// Adds --resume.
void addResume(CLI::App& command, Common& common);

}  // namespace gq::cli
