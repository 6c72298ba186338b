#include "core/carry/roll_lines.h"

#include <algorithm>
#include <map>
#include <optional>

#include "core/carry/roll_course.h"

namespace gq::carry {
namespace {

constexpr float kPart = 0.1f;   ///< of the frame; shorter pieces of it tell nothing
constexpr float kWhole = 0.9f;  ///< of the line's run, by one finding
constexpr float kDoubt = 0.2f;  ///< doubt that is left when the roll shows the same line

/// Length of the side that a line crosses, px.
int across(const Course& course, const Size& size) {
    return course.level ? size.height : size.width;
}

/// A long scratch or a piece of one.
struct Line {
    std::string frame;
    series::Id id = 0;  ///< 0 = doubtful
    const find::Finding* finding = nullptr;
    Course course;
    float at = 0, length = 0;  ///< shares of the side across, and of the side it runs along
};

std::optional<Line> lineOf(const series::Frame& frame, series::Id id, const find::Finding& f) {
    const Size size = frame.geometry.stored;
    const auto course = courseOf(f);
    if (!course || runShare(*course, size) < kPart) return std::nullopt;
    return Line{frame.id,
                id,
                &f,
                *course,
                course->at / float(across(*course, size)),
                runShare(*course, size)};
}

/// The way that film goes through most cameras.
bool runsLevel(const series::Frame& frame) {
    return frame.geometry.stored.width >= frame.geometry.stored.height;
}

void addLines(const series::Frame& frame, bool onlyCharted, std::vector<Line>& out) {
    for (const auto& e : frame.findings)
        if (!onlyCharted || e.charted)
            if (auto l = lineOf(frame, e.id, e.finding)) out.push_back(std::move(*l));
}

/// Groups of lines at one place.
std::vector<std::vector<Line>> grouped(std::vector<Line> lines) {
    const auto kind = [](const Line& l) { return std::pair(l.course.level, l.course.polarity); };
    std::stable_sort(lines.begin(), lines.end(), [&](const Line& a, const Line& b) {
        return kind(a) != kind(b) ? kind(a) < kind(b) : a.at < b.at;
    });
    std::vector<std::vector<Line>> out;
    for (auto& l : lines) {
        if (out.empty() || kind(out.back().back()) != kind(l) ||
            l.at - out.back().back().at > kSway)
            out.emplace_back();
        out.back().push_back(std::move(l));
    }
    return out;
}

/// What the lines of a group agree on, in frames of one size.
Course agreed(const Size& size, const std::vector<Line>& group) {
    Course out = group.front().course;
    float at = 0;
    for (const auto& l : group) {
        at += l.at / float(group.size());
        out.from = std::min(out.from, l.course.from);
        out.to = std::max(out.to, l.course.to);
        out.width = std::max(out.width, l.course.width);
    }
    out.at = at * float(across(out, size));
    return out;
}

/// By frame, its part of a group.
using Parts = std::map<std::string, std::vector<Line>>;

Parts partsOf(const std::vector<Line>& group) {
    Parts out;
    for (const auto& l : group) out[l.frame].push_back(l);
    return out;
}

/// Frames whose part of a group is long enough to tell of a line.
size_t telling(const Parts& parts) {
    return size_t(std::count_if(parts.begin(), parts.end(), [](const auto& part) {
        float length = 0;
        for (const auto& l : part.second) length += l.length;
        return length > kLongEnough;
    }));
}

/// A frame's pieces of a line become surer and are tied to the roll's.
void tie(series::Series& series, const std::string& id, const std::vector<Line>& pieces) {
    series::Frame changed = *series.frame(id);
    for (const auto& l : pieces) {
        if (!l.id) changed.findings.push_back({series.nextId++, *l.finding, false, false});
        auto& entry = l.id ? *std::find_if(changed.findings.begin(), changed.findings.end(),
                                           [&](const auto& e) { return e.id == l.id; })
                           : changed.findings.back();
        entry.charted = true;
        entry.finding.confidence = 1 - (1 - entry.finding.confidence) * kDoubt;
    }
    series = series.with(std::move(changed));
}

/// True if one of the pieces is the whole of a line already.
bool isWhole(const std::vector<Line>& pieces, const Course& c, const Size& size) {
    return std::any_of(pieces.begin(), pieces.end(),
                       [&](const Line& l) { return l.length > kWhole * runShare(c, size); });
}

/// The whole line takes the place of its pieces, unless something became of one.
void addWhole(series::Frame& frame, find::Finding line, series::Id& nextId) {
    const auto isPiece = [&](const series::FindingEntry& e) {
        return e.charted && e.finding.polarity == line.polarity &&
               meets(e.finding.region, line.region);
    };
    for (const auto& e : frame.findings) {
        if (!isPiece(e)) continue;
        if (series::stateOf(frame, e) != series::State::Open) return;
        line.confidence = std::max(line.confidence, e.finding.confidence);
    }
    std::erase_if(frame.findings, isPiece);
    frame.findings.push_back({nextId++, std::move(line), false, true});
}

}  // namespace

series::Series withRollLines(const series::Series& series, const std::vector<std::string>& frames,
                             const PixelSource& pixels, const Doubtful& doubtful,
                             std::stop_token stop) {
    std::vector<Line> lines;
    for (const auto& id : frames) {
        const auto frame = series.frame(id);
        if (!frame) continue;
        addLines(*frame, false, lines);
        if (const auto more = doubtful.find(id); more != doubtful.end())
            for (const auto& f : more->second)
                if (auto l = lineOf(*frame, 0, f); l && l->course.level == runsLevel(*frame))
                    lines.push_back(std::move(*l));
    }
    series::Series out = series;
    std::map<std::string, std::vector<Course>> missing;
    for (const auto& group : grouped(std::move(lines))) {
        const Parts parts = partsOf(group);
        const bool doubted = group.front().id == 0;
        if (telling(parts) < std::max<size_t>(3, frames.size() / (doubted ? 2 : 3))) continue;
        const Size size = series.frame(group.front().frame)->geometry.stored;
        const Course course = agreed(size, group);
        for (const auto& id : frames) {
            const auto part = parts.find(id);
            if (part != parts.end()) tie(out, id, part->second);
            if (part == parts.end() || !isWhole(part->second, course, size))
                missing[id].push_back(course);
        }
    }
    for (const auto& [id, courses] : missing) {
        const auto frame = out.frame(id);
        if (!pixels || !frame || stop.stop_requested()) break;
        const auto image = pixels(*frame, stop);
        if (!image) continue;  // named by the search itself
        series::Frame changed = *frame;
        for (const auto& c : courses)
            if (auto f = lineIn(*image, c)) addWhole(changed, std::move(*f), out.nextId);
        out = out.with(std::move(changed));
    }
    return out;
}

std::vector<RollLine> rollLines(const series::Series& series) {
    std::vector<Line> lines;
    for (const auto& f : series.frames) addLines(*f, true, lines);
    std::vector<RollLine> out;
    for (const auto& group : grouped(std::move(lines))) {
        RollLine line;
        for (const auto& l : group) line.push_back({l.frame, l.id});
        std::stable_sort(line.begin(), line.end(), [&](const RollPart& a, const RollPart& b) {
            return series.indexOf(a.frame) < series.indexOf(b.frame);
        });
        out.push_back(std::move(line));
    }
    return out;
}

RollLine rollLineOf(const series::Series& series, const std::string& frame, series::Id finding) {
    const RollPart own{frame, finding};
    for (auto& line : rollLines(series))
        if (std::find(line.begin(), line.end(), own) != line.end()) return line;
    return {own};
}

}  // namespace gq::carry
