#include "cli/batch.h"

#include <fmt/core.h>

#include <chrono>
#include <map>
#include <set>

#include "core/files/safe_write.h"

namespace gq::cli {
namespace fs = std::filesystem;

namespace {

/// What an earlier run that was killed left beside its targets.
void removeLeftovers(const std::vector<BatchFrame>& frames) {
    std::map<fs::path, std::set<std::string>> targets;
    for (const auto& f : frames)
        targets[f.target.parent_path()].insert(f.target.filename().string());
    for (const auto& [folder, names] : targets)
        files::removeLeftovers(folder, [&](const std::string& n) { return names.contains(n); });
}

/// The frames' own files, in one spelling.
std::set<fs::path> originalsOf(const std::vector<BatchFrame>& frames) {
    std::set<fs::path> out;
    std::error_code code;
    for (const auto& f : frames) out.insert(fs::weakly_canonical(f.file, code));
    return out;
}

}  // namespace

void runBatch(Common& common, const std::vector<BatchFrame>& frames) {
    if (common.resume) removeLeftovers(frames);
    using Said = std::optional<Result<std::string>>;  // nothing = it was done before
    const auto originals = originalsOf(frames);
    std::vector<std::string> failures;
    const auto start = std::chrono::steady_clock::now();
    size_t done = 0, worked = 0;
    inOrder(
        int(frames.size()),
        [&](int i) -> Said {
            const auto& f = frames[size_t(i)];
            std::error_code code;
            if (originals.contains(fs::weakly_canonical(f.target, code)))
                return fail(Error::Kind::Refused, "this is an original, which is never written to",
                            f.target.string(), "Choose another folder.");
            if (common.resume && fs::exists(f.target, code)) return std::nullopt;
            return f.work();
        },
        [&](int i, const Said& said) {
            const std::string file = frames[size_t(i)].file.string();
            worked += said.has_value();
            if (!said) {
                fmt::print("{}: done before\n", file);
            } else if (*said) {
                fmt::print("{}: {}\n", file, **said);
                std::fflush(stdout);
            } else {
                complain(common, said->error());
                failures.push_back(said->error().message());
            }
            ++done;
            const std::chrono::duration<double> so = std::chrono::steady_clock::now() - start;
            std::optional<double> left;
            if (worked > 0) left = so.count() / double(worked) * double(frames.size() - done);
            report(common, file, done, frames.size(), left);
        });
    if (failures.empty() || frames.size() < 2) return;
    fmt::print(stderr, "gquill: {} of {} frames failed:\n", failures.size(), frames.size());
    for (const auto& f : failures) fmt::print(stderr, "  {}\n", f);
}

void addResume(CLI::App& command, Common& common) {
    command.add_flag("--resume", common.resume,
                     "pass over frames whose file is there already, after an earlier run was cut "
                     "short");
}

}  // namespace gq::cli
