#include <fmt/core.h>

#include <map>
#include <mutex>
#include <nlohmann/json.hpp>

#include "cli/common.h"
#include "core/files/folder_scan.h"
#include "core/files/picture_writer.h"
#include "core/pixels/words.h"
#include "core/render/search_series.h"
#include "core/series/frame_json.h"

namespace gq::cli {
namespace fs = std::filesystem;
namespace {

struct FindOptions {
    std::vector<std::string> files;
    PlanOptions plan;
    std::string mask, json;
    bool oneCamera = false;
};

Mask maskOf(const series::Frame& frame, float line) {
    Mask mask(frame.geometry.stored, CV_8U, cv::Scalar(0));
    for (const auto& e : frame.findings)
        if (series::proposed(e, line)) paint(mask, e.finding.region);
    return mask;
}

/// `file` as the person named it.
nlohmann::json jsonOf(const fs::path& file, const series::Frame& frame, float line) {
    auto found = frame.findings;
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) {
        return a.finding.confidence > b.finding.confidence;
    });
    nlohmann::json list = nlohmann::json::array();
    for (const auto& e : found) {
        auto j = series::toJson(e.finding);
        j["above_line"] = series::proposed(e, line);
        j["shared"] = e.charted;
        const auto c = e.finding.region.centre();
        j["centre"] = {c.x, c.y};
        list.push_back(std::move(j));
    }
    return {{"file", file.string()}, {"findings", list}};
}

bool masksInFolder(const FindOptions& o) {
    return o.files.size() > 1 || fs::is_directory(o.mask) || o.mask.ends_with('/');
}

Status writeMask(const series::Frame& frame, const FindOptions& o, float line) {
    const fs::path target =
        masksInFolder(o) ? fs::path(o.mask) / (frame.name() + ".png") : fs::path(o.mask);
    std::error_code code;
    if (fs::equivalent(target, frame.file, code))
        return fail(Error::Kind::Refused, "this is an original, which is never written to",
                    target.string(), "Choose another name for the mask.");
    return files::writeImage8(target, maskOf(frame, line));
}

Status printCounts(const fs::path& file, const series::Frame& frame, float line) {
    const auto above = std::count_if(frame.findings.begin(), frame.findings.end(),
                                     [&](const auto& e) { return series::proposed(e, line); });
    return put("-", fmt::format("{}: {}, {} below the line\n", file.string(),
                                counted(above, "finding"), long(frame.findings.size()) - above));
}

/// Tells frame by frame what searching many of them does.
class FrameReport {
  public:
    FrameReport(const Common& common, std::vector<fs::path> files)
        : m_common(common), m_files(std::move(files)) {}
    void upTo(double frames) {
        const std::lock_guard lock(m_guard);
        for (; m_done < m_files.size() && double(m_done) + 1 <= frames + 1e-6; ++m_done)
            report(m_common, m_files[m_done].string(), m_done + 1, m_files.size());
    }

  private:
    const Common& m_common;
    std::vector<fs::path> m_files;
    size_t m_done = 0;
    std::mutex m_guard;
};

/// Writes what was asked for of a frame, or prints its counts; JSON is gathered in `all`.
Status deliver(const fs::path& file, const series::Frame& frame, const FindOptions& o, float line,
               nlohmann::json& all) {
    if (!o.json.empty()) all.push_back(jsonOf(file, frame, line));
    if (!o.mask.empty()) return writeMask(frame, o, line);
    return o.json.empty() ? printCounts(file, frame, line) : Status{};
}

void run(const FindOptions& o, Common& common) {
    setThreads(common.threads);
    if (!o.mask.empty() && masksInFolder(o))
        if (auto ok = makeFolder(o.mask); !ok) return complain(common, ok.error());
    const auto files = files::pictureFiles({o.files.begin(), o.files.end()});
    std::map<fs::path, fs::path> named;  // by the frame's file
    for (const auto& f : files) named[fs::absolute(f).lexically_normal()] = f;
    std::vector<Error> faults;
    auto s = series::makeSeries(files, "", faults);
    for (const auto& f : faults) complain(common, f);
    s.plan = o.plan.read(s.frames);
    std::vector<std::string> ids;
    for (const auto& f : s.frames) ids.push_back(f->id);

    const auto untold = o.oneCamera ? render::Untold::OneCamera : render::Untold::IfShown;
    const auto groups = render::searchedTogether(s, ids);
    std::vector<fs::path> inTurn;
    for (const auto& group : groups)
        for (const auto& id : group) inTurn.push_back(named[s.frame(id)->file]);
    FrameReport told(common, std::move(inTurn));
    nlohmann::json all = nlohmann::json::array();
    double before = 0;
    for (const auto& group : groups) {
        const auto size = double(group.size());
        const auto out =
            render::searchSeries(s, group, untold, [&](double p) { told.upTo(before + p * size); });
        if (!out) return complain(common, out.error());
        for (const auto& note : out->notes) fmt::print(stderr, "{}\n", note);
        for (const auto& f : out->faults) complain(common, f);
        for (const auto& id : out->searched) {
            const auto frame = out->series.frame(id);
            if (auto ok = deliver(named[frame->file], *frame, o, s.plan.line, all); !ok)
                complain(common, ok.error());
        }
        before += size;
    }
    if (!o.json.empty())
        if (auto ok = put(o.json, all.dump(1) + "\n"); !ok) complain(common, ok.error());
}

}  // namespace

void addFind(CLI::App& app, Common& common) {
    auto* c = app.add_subcommand(
        "find", "search frames for blemishes; three or more of one camera or film together");
    static FindOptions o;
    c->add_option("FRAME", o.files, "pictures or folders")->required();
    addPlan(*c, o.plan, true);
    c->add_flag("--one-camera", o.oneCamera,
                "frames that do not tell their camera are of one, even if they share no dust");
    c->add_option("--mask", o.mask,
                  "8-bit PNG, 255 on findings above the line; a folder for several frames");
    c->add_option("--json", o.json, "findings as JSON, - for standard output");
    addCommon(*c, common);
    c->callback([&] { run(o, common); });
}

}  // namespace gq::cli
