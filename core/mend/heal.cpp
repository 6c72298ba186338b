#include "core/mend/heal.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/grain.h"
#include "core/mend/source_blend.h"
#include "core/mend/split.h"

namespace gq::mend {
namespace {

constexpr size_t kSources = 30;
constexpr int kSmallPiece = 16, kLinePiece = 12, kLargePiece = 110;
constexpr int kLineRing = 3;    ///< px; beyond it a thin line's surroundings say little
constexpr float kCalm = 0.02f;  ///< spread of the surroundings under which a hole is filled whole

/// Where no source can be had: the tone of the surroundings stretched across.
void fillByTone(Window& w, const std::vector<Point>& piece) {
    Ring ring;
    for (int width = 4; width < 2048 && ring.places.size() < 8; width *= 2)
        ring = ringOf(w, piece, width);
    if (ring.places.empty()) return;  // nothing is known at all: the rough fill stays
    const Membrane membrane(ring.places, piece);
    std::vector<Vec4> rim;
    for (const Point& p : membrane.rim()) rim.push_back(w.at(p.x, p.y));
    winsorise(rim);
    w.write(piece, membrane.spread(rim));
}

int ringWidth(const std::vector<Point>& piece) {
    const Rect b = cv::boundingRect(piece);
    return std::clamp(4 + std::max(b.width, b.height) / 6, 4, 10);
}

struct Filled {
    Point source{0, 0};
    float misfit = 1;
};

Filled fillPiece(Window& w, const std::vector<Point>& piece, const HealSettings& s,
                 std::stop_token stop) {
    const Ring ring = ringOf(w, piece, s.alongLine ? kLineRing : ringWidth(piece));
    std::vector<Source> sources;
    if (ring.places.size() >= 8)
        sources = searchSources(w, piece, ring, s.reach,
                                s.candidate > 0 ? size_t(s.candidate) + 1 : kSources, stop);
    if (sources.empty()) {
        fillByTone(w, piece);
        return {};
    }
    const Ring rim = ringOf(w, piece, 3);
    if (rim.places.empty()) {
        fillByTone(w, piece);
        return {};
    }
    if (s.candidate > 0) sources = {sources[std::min(size_t(s.candidate), sources.size() - 1)]};
    const Membrane membrane(rim.places, piece);
    Blend blend = blended(w, ring, sources, membrane, piece);
    if (sources.size() > 1) putGrainBack(w, piece, blend.best, s.grain, blend.together);
    w.write(piece, blend.together);
    return {sources[0].offset, std::sqrt(sources[0].cost / 3)};
}

/// Spread of the ring's luma about a plane, the same along the whole hole.
bool calm(const Window& w, const std::vector<Point>& hole) {
    const Ring ring = ringOf(w, hole, 8);
    if (ring.places.size() < 12) return false;
    const Rect b = ring.box;
    const double e = w.detail(Rect(b.x - 4, b.y - 4, b.width + 8, b.height + 8));
    cv::Matx33d m = cv::Matx33d::eye() * 1e-6;
    cv::Vec3d v(0, 0, 0);
    double square = 0;
    for (const Point& p : ring.places) {
        const cv::Vec3d base(1, double(p.x - b.x) / b.width, double(p.y - b.y) / b.height);
        const double l = double(lumaOf(w.at(p.x, p.y)));
        m += base * base.t();
        v += base * l;
        square += l * l;
    }
    const cv::Vec3d fit = m.solve(v, cv::DECOMP_CHOLESKY);
    const double spread =
        std::sqrt(std::max(0.0, (square - fit.dot(v)) / double(ring.places.size())));
    return spread < double(kCalm) && e >= 0;
}

}  // namespace

Result<HealReport> heal(Window& w, const std::vector<Point>& hole, const HealSettings& s,
                        std::stop_token stop) {
    HealReport report;
    const Rect b = cv::boundingRect(hole);
    const bool whole = std::max(b.width, b.height) <= kLargePiece && calm(w, hole);
    const auto all = whole ? std::vector<std::vector<Point>>{hole}
                           : split(hole, s.alongLine ? kLinePiece : kSmallPiece);
    size_t largest = 0;
    double misfit = 0;
    for (const auto& piece : all) {
        if (stop.stop_requested()) return cancelled();
        const Filled f = fillPiece(w, piece, s, stop);
        misfit += double(f.misfit) * double(piece.size()) / double(hole.size());
        if (piece.size() > largest) largest = piece.size(), report.source = f.source;
    }
    if (stop.stop_requested()) return cancelled();
    report.misfit = float(misfit);
    return report;
}

std::vector<Point> sourcesFor(const Window& w, const std::vector<Point>& hole, int reach,
                              size_t count, std::stop_token stop) {
    const Ring ring = ringOf(w, hole, ringWidth(hole));
    std::vector<Point> out;
    if (ring.places.size() >= 8)
        for (const auto& s : searchSources(w, hole, ring, reach, count, stop))
            out.push_back(s.offset);
    return out;
}

}  // namespace gq::mend
