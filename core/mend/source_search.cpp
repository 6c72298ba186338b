#include "core/mend/source_search.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::mend {
namespace {

constexpr float kNever = 1e9f, kKeepMean = 0.1f, kKeepPlane = 0.3f;
constexpr int kGrid = 3, kNear = 48;
constexpr size_t kRefined = 16;
constexpr size_t kFew = 48;  ///< pixels of the ring that tell likely offsets from others

/// Scores offsets of one piece. Holds the ring once in the order of a scan.
class Judge {
  public:
    Judge(const Window& w, const std::vector<Point>& piece, const Ring& ring)
        : m_window(w), m_ring(ring), m_hole(cv::boundingRect(piece)) {
        const int stride = w.width();
        for (const Point& p : piece) m_piece.push_back(p.y * stride + p.x);
        for (const Point& p : ring.places) m_index.push_back(p.y * stride + p.x);
        m_all = planeBasis();
        const size_t step = std::max<size_t>(1, m_all.samples.size() / kFew);
        for (size_t i = 0; i < m_all.samples.size(); i += step) m_few.add(m_all.samples[i]);
        m_hole = Rect(m_hole.x - 1, m_hole.y - 1, m_hole.width + 2, m_hole.height + 2);
        const Rect around(ring.box.x - 2, ring.box.y - 2, ring.box.width + 4, ring.box.height + 4);
        m_detail = w.detail(around);
    }

    /// The cost by a few of the ring's pixels.
    float quick(Point o) const { return cost(o, m_few); }

    /// The cost by all of them, raised where the source is busier or calmer than the place.
    float judged(Point o) const {
        const float c = cost(o, m_all);
        const double there = m_window.detail(m_hole + o);
        if (c >= kNever || m_detail < 0 || there < 0) return c;
        const double l = std::log((there + 4e-6) / (m_detail + 4e-6));
        return c * float(1 + 0.15 * l * l);
    }

  private:
    /// A pixel of the ring with all that its cost needs, in every lane.
    struct Sample {
        Vec4 target, weight, across, down;
        int index;
    };
    struct Sampled {
        std::vector<Sample> samples;
        float weight = 0;  ///< of all

        void add(const Sample& s) { samples.push_back(s), weight += s.weight[0]; }
    };

    float cost(Point o, const Sampled& ring) const {
        const Rect moved = m_ring.box + o;
        if (moved.x < 0 || moved.y < 0 || moved.br().x > m_window.width() ||
            moved.br().y > m_window.height())
            return kNever;
        const int shift = o.y * m_window.width() + o.x;
        float penalty = 0;
        if (m_window.forbiddenIn(moved) > 0) {
            const uchar* f = m_window.forbiddenData();
            for (const int p : m_piece)
                if (f[p + shift]) return kNever;
            size_t masked = 0;
            for (const int p : m_index) masked += f[p + shift];
            if (masked * 20 > m_index.size()) return kNever;
            penalty = float(masked) / float(m_index.size());
        }
        const Vec4* v = m_window.data();
        Vec4 sum{}, across{}, down{}, square{};
        for (const Sample& s : ring.samples) {
            const Vec4 d = v[s.index + shift] - s.target, wd = s.weight * d;
            sum += wd;
            square += wd * d;
            across += s.across * d;
            down += s.down * d;
        }
        const float scale = m_all.weight / ring.weight;
        const Vec4 mean = sum * sum * splat(1 / ring.weight);
        const Vec4 plane = (across * across + down * down) * splat(scale);
        const Vec4 rest = square - mean * splat(1 - kKeepMean) - plane * splat(1 - kKeepPlane);
        return std::max(0.0f, sum3(rest)) / ring.weight * (1 + 2 * penalty) + 1e-7f +
               penalty * 1e-3f;
    }

    /// The ring with two ramps over it, at right angles to a constant and to each other under the
    /// weights.
    Sampled planeBasis() {
        const size_t n = m_ring.places.size();
        Sampled out;
        double mx = 0, my = 0, total = 0;
        for (size_t i = 0; i < n; ++i) {
            total += double(m_ring.weights[i]);
            mx += double(m_ring.weights[i]) * m_ring.places[i].x;
            my += double(m_ring.weights[i]) * m_ring.places[i].y;
        }
        mx /= total;
        my /= total;
        double xx = 1e-6, xy = 0, yy = 1e-6;
        for (size_t i = 0; i < n; ++i) {
            const double x = m_ring.places[i].x - mx, y = m_ring.places[i].y - my,
                         k = double(m_ring.weights[i]);
            xx += k * x * x;
            xy += k * x * y;
        }
        for (size_t i = 0; i < n; ++i) {
            const double x = m_ring.places[i].x - mx, y = m_ring.places[i].y - my - xy / xx * x;
            yy += double(m_ring.weights[i]) * y * y;
        }
        for (size_t i = 0; i < n; ++i) {
            const double x = m_ring.places[i].x - mx, y = m_ring.places[i].y - my - xy / xx * x;
            out.add({m_window.at(m_ring.places[i].x, m_ring.places[i].y), splat(m_ring.weights[i]),
                     splat(float(double(m_ring.weights[i]) * x / std::sqrt(xx))),
                     splat(float(double(m_ring.weights[i]) * y / std::sqrt(yy))), m_index[i]});
        }
        return out;
    }

    const Window& m_window;
    const Ring& m_ring;
    Rect m_hole;
    std::vector<int> m_piece, m_index;
    Sampled m_all, m_few;
    double m_detail = -1;
};

bool cheaper(const Source& a, const Source& b) {
    return a.cost < b.cost;
}

/// The first `count` possible ones that lie more than `apart` px from those before them.
std::vector<Source> firstApart(const std::vector<Source>& sorted, int apart, size_t count) {
    std::vector<Source> out;
    for (const auto& s : sorted) {
        if (s.cost >= kNever || out.size() >= count) break;
        const bool near = std::any_of(out.begin(), out.end(), [&](const Source& o) {
            return std::abs(o.offset.x - s.offset.x) <= apart &&
                   std::abs(o.offset.y - s.offset.y) <= apart;
        });
        if (!near) out.push_back(s);
    }
    return out;
}

}  // namespace

Ring ringOf(const Window& w, const std::vector<Point>& piece, int width) {
    const Rect hole = cv::boundingRect(piece);
    Ring ring;
    ring.box =
        Rect(hole.x - width, hole.y - width, hole.width + 2 * width, hole.height + 2 * width) &
        Rect(0, 0, w.width(), w.height());
    cv::Mat outside(ring.box.size(), CV_8U, cv::Scalar(255)), distance;
    for (const Point& p : piece) outside.at<uchar>(p - ring.box.tl()) = 0;
    cv::distanceTransform(outside, distance, cv::DIST_L2, 3);
    for (int y = 0; y < ring.box.height; ++y)
        for (int x = 0; x < ring.box.width; ++x) {
            const float d = distance.at<float>(y, x);
            const Point p(ring.box.x + x, ring.box.y + y);
            if (d <= 0 || d > float(width) + 0.01f || !w.known(p.x, p.y)) continue;
            ring.places.push_back(p);
            ring.weights.push_back(1 / (0.5f + d / (float(width) * 0.5f)));
        }
    return ring;
}

std::vector<Source> searchSources(const Window& w, const std::vector<Point>& piece,
                                  const Ring& ring, const Reach& reach, std::stop_token stop) {
    const Judge judge(w, piece, ring);
    // Far away the grid is twice as wide.
    std::vector<int> steps;
    for (int v = -reach.farthest; v <= reach.farthest;
         v += std::abs(v) < kNear || v == -kNear ? kGrid : 2 * kGrid)
        steps.push_back(v);
    std::vector<Source> coarse;
    for (const int y : steps) {
        if (stop.stop_requested()) return {};
        for (const int x : steps)
            if (std::max(std::abs(x), std::abs(y)) >= reach.nearest)
                if (const float c = judge.quick({x, y}); c < kNever) coarse.push_back({{x, y}, c});
    }
    const size_t kept = std::min(coarse.size(), std::max(kRefined, 2 * reach.count));
    if (reach.apart > kGrid) {
        std::stable_sort(coarse.begin(), coarse.end(), cheaper);
        coarse = firstApart(coarse, reach.apart, kept);
    } else {
        std::partial_sort(coarse.begin(), coarse.begin() + long(kept), coarse.end(), cheaper);
        coarse.resize(kept);
    }
    for (auto& s : coarse) {
        Source best{s.offset, kNever};
        for (int y = -1; y <= 1; ++y)
            for (int x = -1; x <= 1; ++x)
                if (const float c = judge.quick(s.offset + Point(x, y)); c < best.cost)
                    best = {s.offset + Point(x, y), c};
        s = best;
        if (s.cost < kNever) s.cost = judge.judged(s.offset);
    }
    std::stable_sort(coarse.begin(), coarse.end(), cheaper);
    return firstApart(coarse, reach.apart, reach.count);
}

}  // namespace gq::mend
