#pragma once
#include <CLI/CLI.hpp>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/files/picture_reader.h"
#include "core/files/picture_writer.h"
#include "core/find/find_plan.h"
#include "core/pixels/parallel.h"
#include "core/series/series.h"

namespace gq::cli {

/// Exit codes: all done, some frames failed, wrong usage.
enum Exit { kDone = 0, kSomeFailed = 1, kUsage = 2 };

/// Options every command has.
struct Common {
    int threads = 0;
    bool progress = false, resume = false;
    int exit = kDone;
};

/// A command registers itself; its callback sets `common.exit`.
void addInfo(CLI::App& app, Common& common);
void addFind(CLI::App& app, Common& common);
void addMend(CLI::App& app, Common& common);
void addClean(CLI::App& app, Common& common);
void addChart(CLI::App& app, Common& common);
void addCarry(CLI::App& app, Common& common);
void addExport(CLI::App& app, Common& common);
void addMerge(CLI::App& app, Common& common);

/// Adds -j and --progress to a command.
void addCommon(CLI::App& command, Common& common);
/// --origin and the search settings.
struct PlanOptions {
    std::string origin, polarity, kinds;
    find::FindPlan plan;  ///< filled when the command runs, but for the words above
    /// The plan for `frames`: of the origin that was named, else of the one their files tell, which
    /// is said on standard error, else of a sensor.
    [[nodiscard]] find::FindPlan read(const std::vector<series::FramePtr>& frames) const;
};
void addPlan(CLI::App& command, PlanOptions& options, bool full);

/// One JSON line of progress on standard error, if asked for.
void report(const Common& common, const std::string& frame, size_t done, size_t all,
            std::optional<double> secondsLeft = {});
/// The same for a step that comes before the frames, as it goes on: its name and the share done.
[[nodiscard]] Progress stepReport(const Common& common, const std::string& step);
/// The output format: the one asked for, else that of the frame's file; raw becomes 16-bit TIFF.
[[nodiscard]] files::Format formatFor(const std::filesystem::path& file, const std::string& word,
                                      int bits);
/// Names a failure on standard error and remembers it for the exit code; of a file that was done in
/// part it tells only.
void complain(Common& common, const Error& error);
/// Tells of the files with more pages than the one that is read.
void tellPagesLeft(Common& common, const std::vector<std::filesystem::path>& files);
/// Prints a result to a file, or to standard output for "-".
[[nodiscard]] Status put(const std::string& target, const std::string& text);
/// Makes an output folder. Errors: NoPermission.
[[nodiscard]] Status makeFolder(const std::filesystem::path& folder);
/// Runs `work` for each frame, names failures and goes on.
void forFrames(Common& common, const std::vector<std::string>& files,
               const std::function<Status(const std::filesystem::path&)>& work);

}  // namespace gq::cli
