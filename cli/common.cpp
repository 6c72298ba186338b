#include "cli/common.h"

#include <fmt/core.h>

#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/files/folder_scan.h"
#include "core/files/safe_write.h"
#include "core/series/told_origin.h"

namespace gq::cli {
namespace fs = std::filesystem;

void addCommon(CLI::App& command, Common& common) {
    command.add_option("-j", common.threads, "threads to use, 0 = all cores")
        ->check(CLI::Range(0, 256));
    command.add_flag("--progress", common.progress, "progress as JSON lines on standard error");
}

namespace {

std::vector<std::string> commaList(const std::string& text) {
    std::vector<std::string> out;
    std::string item;
    for (std::istringstream in(text); std::getline(in, item, ',');)
        if (!item.empty()) out.push_back(item);
    return out;
}

std::string kindWords() {
    std::string out;
    for (const auto k : find::allKinds()) out += (out.empty() ? "" : ", ") + find::word(k);
    return out;
}

std::string badKind(const std::string& text) {
    for (const auto& k : commaList(text))
        if (!find::kindFromWord(k)) return fmt::format("unknown kind '{}' ({})", k, kindWords());
    return {};
}

}  // namespace

void addPlan(CLI::App& c, PlanOptions& o, bool full) {
    c.add_option("--origin", o.origin,
                 "where the pictures come from (default: as their files tell, else sensor)")
        ->check(CLI::IsMember({"sensor", "negative", "positive", "print"}));
    c.add_option("--strength", o.plan.strength, "0..100, higher finds fainter blemishes")
        ->check(CLI::Range(0, 100))
        ->capture_default_str();
    c.add_option("--line", o.plan.line, "0..1, confidence above which findings count")
        ->check(CLI::Range(0.0, 1.0))
        ->capture_default_str();
    if (!full) return;
    c.add_option("--kinds", o.kinds, "comma list of " + kindWords())->check(badKind);
    c.add_option("--polarity", o.polarity, "dark, light or both (default: those of the origin)")
        ->check(CLI::IsMember({"dark", "light", "both"}));
    c.add_option("--smallest", o.plan.smallest, "drop findings smaller than this many pixels")
        ->check(CLI::NonNegativeNumber);
    c.add_option("--largest", o.plan.largest,
                 "drop findings larger than this many pixels, 0 = no limit")
        ->check(CLI::NonNegativeNumber);
}

find::FindPlan PlanOptions::read(const std::vector<series::FramePtr>& frames) const {
    find::FindPlan out = plan;
    if (!origin.empty()) {
        out.origin = *find::originFromWord(origin);
    } else if (const auto told = series::toldOrigin(frames)) {
        out.origin = *told;
        if (*told != find::Origin::Sensor)
            fmt::print(stderr, "taken for {}s, as the files tell; --origin tells otherwise\n",
                       find::word(*told));
    }
    if (polarity == "both")
        out.polarities = {find::Polarity::Dark, find::Polarity::Light};
    else if (const auto p = find::polarityFromWord(polarity))
        out.polarities = {*p};
    if (!kinds.empty()) out.kinds.clear();
    for (const auto& k : commaList(kinds)) out.kinds.push_back(*find::kindFromWord(k));
    return out;
}

void report(const Common& common, const std::string& frame, size_t done, size_t all,
            std::optional<double> secondsLeft) {
    if (!common.progress) return;
    nlohmann::json line{{"frame", frame}, {"done", done}, {"of", all}};
    if (secondsLeft) line["seconds_left"] = std::round(*secondsLeft * 10) / 10;
    std::cerr << line.dump() << std::endl;
}

Progress stepReport(const Common& common, const std::string& step) {
    if (!common.progress) return {};
    return [step](double share) {
        const nlohmann::json line{{"step", step}, {"share", std::round(share * 1000) / 1000}};
        std::cerr << line.dump() << std::endl;
    };
}

files::Format formatFor(const fs::path& file, const std::string& word, int bits) {
    if (!word.empty()) return *files::formatFromWord(word);
    return files::formatForName(file, bits).value_or(files::Format::Tiff16);
}

void complain(Common& common, const Error& error) {
    std::cerr << "gquill: " << error.message() << '\n';
    if (error.kind != Error::Kind::Partial) common.exit = kSomeFailed;
}

void tellPagesLeft(Common& common, const std::vector<fs::path>& files) {
    for (const auto& file : files)
        if (const auto info = files::readInfo(file))  // a fault is told by what reads the picture
            if (const auto left = files::pagesLeft(*info)) complain(common, *left);
}

Status put(const std::string& target, const std::string& text) {
    if (target != "-") return files::writeTextSafely(target, text);
    std::cout << text << std::flush;
    return {};
}

Status makeFolder(const fs::path& folder) {
    std::error_code code;
    fs::create_directories(folder, code);
    if (code)
        return fail(Error::Kind::NoPermission, "the folder cannot be made (" + code.message() + ")",
                    folder.string(), "Choose another folder.");
    return {};
}

void forFrames(Common& common, const std::vector<std::string>& files,
               const std::function<Status(const fs::path&)>& work) {
    const auto all = files::pictureFiles(std::vector<fs::path>(files.begin(), files.end()));
    for (size_t i = 0; i < all.size(); ++i) {
        if (auto ok = work(all[i]); !ok) complain(common, ok.error());
        report(common, all[i].string(), i + 1, all.size());
    }
}

}  // namespace gq::cli
