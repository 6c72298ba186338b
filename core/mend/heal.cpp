#include "core/mend/heal.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/mend/source_search.h"
#include "core/mend/split.h"

namespace gq::mend {
namespace {

constexpr size_t kSources = 10, kMembranePoints = 72;
constexpr int kSmallPiece = 16, kLargePiece = 110;
constexpr float kCalm = 0.02f;  ///< spread of the surroundings under which a hole is filled whole

/// A sheet through known differences on the rim: weights 1 / (r^2 + 1/2)^1.5, worked out once for
/// all sources of a piece.
class Membrane {
  public:
    Membrane(const std::vector<Point>& rim, const std::vector<Point>& piece)
        : m_rim(thinned(rim)), m_count(m_rim.size()) {
        m_weights.reserve(piece.size() * m_count);
        for (const Point& p : piece) {
            const size_t start = m_weights.size();
            float total = 0;
            for (const Point& r : m_rim) {
                const float dx = float(r.x - p.x), dy = float(r.y - p.y),
                            d = dx * dx + dy * dy + 0.5f;
                const float k = 1 / (d * std::sqrt(d));
                m_weights.push_back(k);
                total += k;
            }
            for (size_t i = start; i < m_weights.size(); ++i) m_weights[i] /= total;
        }
    }

    [[nodiscard]] const std::vector<Point>& rim() const { return m_rim; }

    /// The sheet through `onRim` (one value a point of `rim()`), at every pixel of the piece.
    void spread(std::vector<Vec4> onRim, std::vector<Vec4>& out) const {
        winsorise(onRim);
        out.assign(m_weights.size() / m_count, Vec4{});
        const float* k = m_weights.data();
        for (auto& sum : out)
            for (const Vec4& v : onRim) sum += splat(*k++) * v;
    }

  private:
    static std::vector<Point> thinned(const std::vector<Point>& rim) {
        const size_t step = std::max<size_t>(1, rim.size() / kMembranePoints);
        std::vector<Point> out;
        for (size_t i = 0; i < rim.size(); i += step) out.push_back(rim[i]);
        return out;
    }

    /// Differences further than 2.5 deviations from the median are drawn in, channel by channel.
    static void winsorise(std::vector<Vec4>& rim) {
        std::vector<float> v(rim.size());
        const auto median = [&] {
            const auto middle = v.begin() + long(v.size() / 2);
            std::nth_element(v.begin(), middle, v.end());
            return *middle;
        };
        for (int c = 0; c < 3; ++c) {
            for (size_t i = 0; i < rim.size(); ++i) v[i] = rim[i][c];
            const float m = median();
            for (size_t i = 0; i < rim.size(); ++i) v[i] = std::abs(rim[i][c] - m);
            const float limit = 2.5f * (1.4826f * median() + 0.004f);
            for (auto& r : rim) r[c] = std::clamp(r[c], m - limit, m + limit);
        }
    }

    std::vector<Point> m_rim;
    size_t m_count;
    std::vector<float> m_weights;
};

/// A source's pixels moved to the place's tone.
void toned(const Window& w, Point o, const Membrane& membrane, const std::vector<Point>& piece,
           std::vector<Vec4>& out) {
    std::vector<Vec4> rim;
    for (const Point& r : membrane.rim()) {
        const int x = std::clamp(r.x + o.x, 0, w.width() - 1),
                  y = std::clamp(r.y + o.y, 0, w.height() - 1);
        rim.push_back(w.at(r.x, r.y) - w.at(x, y));
    }
    membrane.spread(std::move(rim), out);
    for (size_t i = 0; i < piece.size(); ++i) out[i] += w.at(piece[i].x + o.x, piece[i].y + o.y);
}

/// High pass (sigma 1.5) of values scattered over a piece, zero outside it.
class PieceDetail {
  public:
    PieceDetail(const Window& w, const std::vector<Point>& piece) : m_window(w), m_piece(piece) {
        const Rect b = cv::boundingRect(piece);
        m_box = Rect(b.x - 6, b.y - 6, b.width + 12, b.height + 12);
    }

    std::vector<Vec4> highPass(const std::vector<Vec4>& values) const {
        cv::Mat plane(m_box.size(), CV_32FC4, cv::Scalar::all(0)), soft;
        for (size_t i = 0; i < m_piece.size(); ++i)
            *reinterpret_cast<Vec4*>(plane.ptr<cv::Vec4f>(m_piece[i].y - m_box.y) +
                                     (m_piece[i].x - m_box.x)) = values[i];
        cv::GaussianBlur(plane, soft, {9, 9}, 1.5);
        std::vector<Vec4> out(values.size());
        for (size_t i = 0; i < m_piece.size(); ++i) {
            const auto& s = soft.at<cv::Vec4f>(m_piece[i] - m_box.tl());
            out[i] = values[i] - Vec4{s[0], s[1], s[2], 0};
        }
        return out;
    }

    /// Fine detail in luma of the piece as it would lie in its surroundings.
    std::vector<float> lumaDetail(const std::vector<float>& inside, bool withSurroundings) const {
        cv::Mat plane(m_box.size(), CV_32F, cv::Scalar(0)), soft;
        if (withSurroundings)
            for (int y = 0; y < m_box.height; ++y)
                for (int x = 0; x < m_box.width; ++x)
                    plane.at<float>(y, x) =
                        lumaOf(m_window.at(std::clamp(m_box.x + x, 0, m_window.width() - 1),
                                           std::clamp(m_box.y + y, 0, m_window.height() - 1)));
        for (size_t i = 0; i < m_piece.size(); ++i)
            plane.at<float>(m_piece[i] - m_box.tl()) = inside[i];
        cv::GaussianBlur(plane, soft, {9, 9}, 1.5);
        std::vector<float> out(inside.size());
        for (size_t i = 0; i < m_piece.size(); ++i)
            out[i] = inside[i] - soft.at<float>(m_piece[i] - m_box.tl());
        return out;
    }

  private:
    const Window& m_window;
    const std::vector<Point>& m_piece;
    Rect m_box;
};

std::vector<float> lumas(const std::vector<Vec4>& v) {
    std::vector<float> out(v.size());
    for (size_t i = 0; i < v.size(); ++i) out[i] = lumaOf(v[i]);
    return out;
}

/// Adds to the mean structure as much of the best source's fine detail as brings the detail's
/// energy to grain^2 times that of the surroundings (at most 1.4 of it).
void putGrainBack(const Window& w, const std::vector<Point>& piece, const std::vector<Vec4>& best,
                  float grain, std::vector<Vec4>& structure) {
    std::vector<Vec4> lost(structure.size());
    for (size_t i = 0; i < lost.size(); ++i) lost[i] = best[i] - structure[i];
    const PieceDetail tool(w, piece);
    const std::vector<Vec4> detail = tool.highPass(lost);
    const std::vector<float> has = tool.lumaDetail(lumas(structure), true),
                             adds = tool.lumaDetail(lumas(detail), false);
    double hh = 0, aa = 0, ha = 0;
    for (size_t i = 0; i < has.size(); ++i) {
        hh += double(has[i]) * double(has[i]);
        aa += double(adds[i]) * double(adds[i]);
        ha += double(has[i]) * double(adds[i]);
    }
    const double n = double(has.size());
    hh /= n, aa /= n, ha /= n;
    const Rect b = cv::boundingRect(piece);
    double around = -1;
    for (const int reach : {10, 25})
        if (around < 0)
            around =
                w.detail(Rect(b.x - reach, b.y - reach, b.width + 2 * reach, b.height + 2 * reach));
    float share = 1;
    if (around >= 0 && aa > 1e-12) {
        const double root = ha * ha - aa * (hh - around * double(grain) * double(grain));
        share = root > 0 ? float(std::clamp((-ha + std::sqrt(root)) / aa, 0.0, 1.4)) : 0.0f;
    }
    for (size_t i = 0; i < structure.size(); ++i) structure[i] += splat(share) * detail[i];
}

/// Mean of several sources, the likelier weighing more; the first alone is also returned.
std::vector<Vec4> meanOf(const Window& w, const std::vector<Source>& sources,
                         const Membrane& membrane, const std::vector<Point>& piece,
                         std::vector<Vec4>& best) {
    std::vector<Vec4> mean(piece.size(), Vec4{}), one;
    float total = 0;
    for (size_t j = 0; j < sources.size(); ++j) {
        toned(w, sources[j].offset, membrane, piece, one);
        const float k =
            std::exp(-(sources[j].cost - sources[0].cost) / (sources[0].cost * 0.5f + 1e-6f));
        for (size_t i = 0; i < mean.size(); ++i) mean[i] += splat(k) * one[i];
        total += k;
        if (j == 0) best = one;
    }
    for (auto& m : mean) m *= splat(1 / total);
    return mean;
}

void write(Window& w, const std::vector<Point>& piece, const std::vector<Vec4>& values) {
    for (size_t i = 0; i < piece.size(); ++i)
        for (int c = 0; c < 3; ++c)
            w.at(piece[i].x, piece[i].y)[c] = std::clamp(values[i][c], 0.0f, 1.0f);
    w.fill(piece);
}

/// Where no source can be had: the tone of the surroundings stretched across.
void fillByTone(Window& w, const std::vector<Point>& piece) {
    Ring ring;
    for (int width = 4; width < 2048 && ring.places.size() < 8; width *= 2)
        ring = ringOf(w, piece, width);
    if (ring.places.empty()) return;  // nothing is known at all: the rough fill stays
    const Membrane membrane(ring.places, piece);
    std::vector<Vec4> rim, values;
    for (const Point& p : membrane.rim()) rim.push_back(w.at(p.x, p.y));
    membrane.spread(std::move(rim), values);
    write(w, piece, values);
}

struct Filled {
    Point source{0, 0};
    float misfit = 1;
};

Filled fillPiece(Window& w, const std::vector<Point>& piece, const HealSettings& s,
                 std::stop_token stop) {
    const Rect b = cv::boundingRect(piece);
    const int size = std::max(b.width, b.height);
    const Ring ring = ringOf(w, piece, std::clamp(4 + size / 6, 4, 10));
    std::vector<Source> sources;
    if (s.fixedSource)
        sources = {{s.source, 0}};
    else if (ring.places.size() >= 8)
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
    std::vector<Vec4> best, values = meanOf(w, sources, membrane, piece, best);
    if (sources.size() > 1) putGrainBack(w, piece, best, s.grain, values);
    write(w, piece, values);
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
    if (s.fixedSource) {
        const Rect moved = b + s.source;
        if ((moved & Rect(0, 0, w.width(), w.height())) != moved)
            return fail(Error::Kind::BadSetting, "the source lies outside the picture", {},
                        "Drag it inside.");
    }
    const bool whole =
        s.fixedSource || (calm(w, hole) && std::max(b.width, b.height) <= kLargePiece);
    const auto all = whole ? std::vector<std::vector<Point>>{hole} : split(hole, kSmallPiece);
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

}  // namespace gq::mend
