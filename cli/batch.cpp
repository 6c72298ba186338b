#include "cli/batch.h"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <map>
#include <set>

#include "core/files/folder_scan.h"
#include "core/files/safe_write.h"

namespace gq::cli {
namespace fs = std::filesystem;

namespace {

/// What an earlier run that was killed left beside its targets.
void removeLeftovers(const std::vector<BatchFrame>& frames) {
    std::map<fs::path, std::set<std::string>> targets;
    for (const auto& f : frames)
        for (const auto& t : f.targets) targets[t.parent_path()].insert(t.filename().string());
    for (const auto& [folder, names] : targets)
        files::removeLeftovers(folder, [&](const std::string& n) { return names.contains(n); });
}

/// For each frame the index of the first that goes to the same file.
std::vector<size_t> firstOfTarget(const std::vector<BatchFrame>& frames) {
    std::vector<fs::path> targets;
    std::vector<size_t> of, out;
    for (size_t i = 0; i < frames.size(); ++i)
        for (const auto& t : frames[i].targets) targets.push_back(t), of.push_back(i);
    const auto firsts = files::firstOfSame(targets);
    for (size_t i = 0; i < frames.size(); ++i) out.push_back(i);
    for (size_t t = 0; t < firsts.size(); ++t) out[of[t]] = std::min(out[of[t]], of[firsts[t]]);
    return out;
}

/// The frames' own files, in one spelling.
std::set<fs::path> originalsOf(const std::vector<BatchFrame>& frames) {
    std::set<fs::path> out;
    std::error_code code;
    for (const auto& f : frames)
        for (const auto& file : {f.file, f.companion}) out.insert(fs::weakly_canonical(file, code));
    return out;
}

}  // namespace

void runBatch(Common& common, const std::vector<BatchFrame>& frames) {
    if (common.resume) removeLeftovers(frames);
    using Said = std::optional<Result<std::string>>;  // nothing = it was done before
    const auto originals = originalsOf(frames);
    const auto firsts = firstOfTarget(frames);
    std::vector<std::string> failures;
    const auto start = std::chrono::steady_clock::now();
    size_t done = 0, worked = 0;
    inOrder(
        int(frames.size()),
        [&](int i) -> Said {
            const auto& f = frames[size_t(i)];
            std::error_code code;
            for (const auto& t : f.targets)
                if (originals.contains(fs::weakly_canonical(t, code)))
                    return fail(Error::Kind::Refused,
                                "this is an original, which is never written to", t.string(),
                                "Choose another folder.");
            if (const size_t first = firsts[size_t(i)]; first != size_t(i))
                return files::targetTaken(f.targets.front(), frames[first].file);
            const auto there = [&](const fs::path& t) { return fs::exists(t, code); };
            const auto written =
                common.resume ? std::count_if(f.targets.begin(), f.targets.end(), there) : 0;
            if (written == ptrdiff_t(f.targets.size())) return std::nullopt;
            return f.work(written > 0);
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
