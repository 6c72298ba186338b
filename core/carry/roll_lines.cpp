#include "core/carry/roll_lines.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <opencv2/core.hpp>
#include <optional>

#include "core/pixels/color.h"

namespace gq::carry {
namespace {

constexpr float kLongEnough = 0.35f;  ///< of the frame, to be part of a roll's line
constexpr float kSame = 0.006f;       ///< of the frame's height: how far a film sways in the gate
constexpr float kAdded = 0.7f;        ///< confidence of a line that the frame's own search missed
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
        const bool level = float(b.width) > kLongEnough * float(size.width);
        if (!level && float(b.height) <= kLongEnough * float(size.height)) continue;
        const PointF c = e.finding.region.centre();
        out.push_back(
            {frame.id, e.id, level, level ? c.y / float(size.height) : c.x / float(size.width)});
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

/// What the frames that show a line agree on, in pixels.
struct Course {
    bool level = true;
    float at = 0, from = 1e9f, to = 0, width = 1;
    find::Polarity polarity = find::Polarity::Light;
};

Course courseOf(const series::Series& series, const std::vector<Line>& group) {
    Course out;
    out.level = group.front().level;
    for (const auto& l : group) {
        const auto frame = series.frame(l.frame);
        const auto& f = frame->finding(l.id)->finding;
        const Rect& b = f.region.box;
        out.at += l.at / float(group.size());
        out.from = std::min(out.from, float(out.level ? b.x : b.y));
        out.to = std::max(out.to, float(out.level ? b.br().x : b.br().y));
        out.width = std::max(out.width, f.measures.width);
        out.polarity = f.polarity;
    }
    const Size size = series.frame(group.front().frame)->geometry.stored;
    out.at *= float(out.level ? size.height : size.width);
    return out;
}

/// Where a frame shows the line, if it does.
std::optional<find::Finding> lineIn(const Image& pixels, const Course& c) {
    constexpr int kPieces = 16, kFlank = 4;
    const ImageF tone = c.level ? luma(pixels) : ImageF(luma(pixels).t());
    const int sway = int(std::ceil(kSame * float(tone.rows))), middle = int(std::lround(c.at));
    const int from = std::max(0, int(c.from)), to = std::min(tone.cols, int(c.to));
    const int step = (to - from) / kPieces;
    if (step < 8) return std::nullopt;
    const float side = c.polarity == find::Polarity::Light ? 1.0f : -1.0f;
    double best = 0;
    int place = -1;
    for (int y = middle - sway; y <= middle + sway; ++y) {
        if (y < kFlank || y + kFlank >= tone.rows) continue;
        double sum = 0, square = 0;
        int ridges = 0;
        for (int i = 0; i < kPieces; ++i) {
            const cv::Range along(from + i * step, from + (i + 1) * step);
            const auto mean = [&](int row) { return cv::mean(tone.row(row).colRange(along))[0]; };
            const double r = double(side) * (mean(y) - 0.5 * (mean(y - kFlank) + mean(y + kFlank)));
            sum += r;
            square += r * r;
            ridges += r > 0;
        }
        const double m = sum / kPieces,
                     error = std::sqrt(std::max(square / kPieces - m * m, 1e-12) / kPieces);
        if (ridges * 10 >= kPieces * 7 && m / error > std::max(best, 4.0))
            best = m / error, place = y;
    }
    if (place < 0) return std::nullopt;
    const auto at = float(place) + 0.5f;
    const PointF a = c.level ? PointF(c.from, at) : PointF(at, c.from),
                 b = c.level ? PointF(c.to, at) : PointF(at, c.to);
    find::Finding f;
    f.kind = find::Kind::Scratch;
    f.polarity = c.polarity;
    f.confidence = kAdded;
    f.region = stroke({a, b}, std::max(3.0f, c.width), pixels.size());
    f.measures.length = c.to - c.from;
    f.measures.width = c.width;
    f.measures.size = std::sqrt(f.measures.length * c.width * 1.27f);
    f.measures.peak = float(best);
    return f;
}

size_t framesIn(const std::vector<Line>& lines) {
    std::map<std::string, int> seen;
    for (const auto& l : lines) ++seen[l.frame];
    return seen.size();
}

}  // namespace

series::Series withRollLines(const series::Series& series, const std::vector<std::string>& frames,
                             const PixelSource& pixels, std::stop_token stop) {
    std::vector<Line> lines;
    for (const auto& id : frames)
        if (const auto frame = series.frame(id))
            for (auto& l : linesOf(*frame)) lines.push_back(std::move(l));
    series::Series out = series;
    const size_t least = std::max<size_t>(3, frames.size() / 3);
    std::map<std::string, std::vector<Course>> missing;
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
        for (const auto& id : frames)
            if (std::none_of(group.begin(), group.end(),
                             [&](const Line& l) { return l.frame == id; }))
                missing[id].push_back(courseOf(series, group));
    }
    for (const auto& [id, courses] : missing) {
        const auto frame = out.frame(id);
        if (!pixels || !frame || stop.stop_requested()) break;
        const auto image = pixels(*frame, stop);
        if (!image) continue;  // named by the search itself
        series::Frame changed = *frame;
        for (const auto& c : courses)
            if (auto f = lineIn(*image, c))
                changed.findings.push_back({out.nextId++, std::move(*f), false, true});
        out = out.with(std::move(changed));
    }
    return out;
}

std::vector<RollLine> rollLines(const series::Series& series) {
    std::vector<Line> lines;
    for (const auto& f : series.frames)
        for (auto& l : linesOf(*f))
            if (f->finding(l.id)->charted) lines.push_back(std::move(l));
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
