#include "core/carry/roll_lines.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace gq::carry {
namespace {

constexpr float kLongEnough = 0.35f;  ///< of the frame, to be part of a roll's line
constexpr float kSame = 0.006f;       ///< of the frame's height: how far a film sways in the gate
constexpr float kDoubt = 0.2f;        ///< doubt that is left when the roll shows the same line

/// A long scratch and where it crosses the film: its middle's share of the side it runs along.
struct Line {
    std::string frame;
    series::Id id;
    bool level;
    float at;
};

std::vector<Line> linesOf(const series::Frame& frame) {
    std::vector<Line> out;
    const Size size = frame.geometry.stored;
    for (const auto& e : frame.findings) {
        const Rect& b = e.finding.region.box;
        if (e.finding.kind != find::Kind::Scratch) continue;
        const PointF c = e.finding.region.centre();
        if (float(b.width) > kLongEnough * float(size.width))
            out.push_back({frame.id, e.id, true, c.y / float(size.height)});
        else if (float(b.height) > kLongEnough * float(size.height))
            out.push_back({frame.id, e.id, false, c.x / float(size.width)});
    }
    return out;
}

/// Groups of lines at one place, each frame at most counted once.
std::vector<std::vector<Line>> grouped(std::vector<Line> lines) {
    std::stable_sort(lines.begin(), lines.end(), [](const Line& a, const Line& b) {
        return a.level != b.level ? a.level : a.at < b.at;
    });
    std::vector<std::vector<Line>> out;
    for (auto& l : lines) {
        if (out.empty() || out.back().back().level != l.level ||
            l.at - out.back().back().at > kSame)
            out.emplace_back();
        out.back().push_back(std::move(l));
    }
    return out;
}

size_t framesIn(const std::vector<Line>& lines) {
    std::map<std::string, int> seen;
    for (const auto& l : lines) ++seen[l.frame];
    return seen.size();
}

}  // namespace

series::Series withRollLines(const series::Series& series, const std::vector<std::string>& frames) {
    std::vector<Line> lines;
    for (const auto& id : frames)
        if (const auto frame = series.frame(id))
            for (auto& l : linesOf(*frame)) lines.push_back(std::move(l));
    series::Series out = series;
    const size_t least = std::max<size_t>(3, frames.size() / 3);
    for (const auto& group : grouped(std::move(lines))) {
        if (framesIn(group) < least) continue;
        for (const auto& l : group) {
            series::Frame changed = *out.frame(l.frame);
            for (auto& e : changed.findings)
                if (e.id == l.id) {
                    e.charted = true;
                    e.finding.confidence = 1 - (1 - e.finding.confidence) * kDoubt;
                }
            out = out.with(std::move(changed));
        }
    }
    return out;
}

}  // namespace gq::carry
