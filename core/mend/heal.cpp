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

/// The nth source that is really another place; from the first again when there are no more.
std::vector<Source> otherSource(const Window& w, const std::vector<Point>& piece, const Ring& ring,
                                Reach reach, int n, std::stop_token stop) {
    const Rect b = cv::boundingRect(piece);
    reach.apart = std::max(8, std::max(b.width, b.height) / 2);
    reach.count = size_t(n) + 1;
    const auto all = searchSources(w, piece, ring, reach, stop);
    if (all.empty()) return {};
    return {all[size_t(n) % all.size()]};
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
        sources =
            s.candidate > 0
                ? otherSource(w, piece, ring, {.farthest = s.reach}, s.candidate, stop)
                : searchSources(w, piece, ring, {.farthest = s.reach, .count = kSources}, stop);
    if (sources.empty()) {
        fillByTone(w, piece);
        return {};
    }
    const Ring rim = ringOf(w, piece, 3);
    if (rim.places.empty()) {
        fillByTone(w, piece);
        return {};
    }
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

std::optional<Point> sourceFor(const Window& w, const std::vector<Point>& hole, int reach,
                               std::stop_token stop) {
    const Ring ring = ringOf(w, hole, ringWidth(hole));
    if (ring.places.size() < 8) return std::nullopt;
    const auto found = searchSources(w, hole, ring, {.farthest = reach}, stop);
    return found.empty() ? std::nullopt : std::optional(found[0].offset);
}

std::optional<Point> anotherSourceFor(const Window& w, const std::vector<Point>& hole, int sight,
                                      int candidate, std::stop_token stop) {
    const Ring ring = ringOf(w, hole, ringWidth(hole));
    if (ring.places.size() < 8) return std::nullopt;
    const Rect b = cv::boundingRect(hole);
    Reach reach{.farthest = sight + std::max(b.width, b.height), .nearest = sight + 4};
    auto found = otherSource(w, hole, ring, reach, candidate, stop);
    reach.nearest = 0;
    if (found.empty()) found = otherSource(w, hole, ring, reach, candidate, stop);
    return found.empty() ? std::nullopt : std::optional(found[0].offset);
}

}  // namespace gq::mend
