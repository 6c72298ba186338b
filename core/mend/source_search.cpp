#include "core/mend/source_search.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <iterator>
#include <opencv2/imgproc.hpp>
#include <span>

#include "core/mend/ring_sums.h"

namespace gq::mend {
namespace {

constexpr float kNever = 1e9f, kKeepMean = 0.1f, kKeepPlane = 0.3f;
constexpr int kGrid = 3, kNear = 48;
constexpr size_t kRefined = 16;
constexpr size_t kFew = 48;  ///< pixels of the ring that tell likely offsets from others

/// Prices offsets of one piece. Holds the ring once in the order of a scan.
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

    /// Sets the cost of each by a few of the ring's pixels, kNever where it cannot be.
    void quick(std::span<Source> all) const { price(all, m_few); }

    /// Sets it by all of them, raised where the source is busier or calmer than the place.
    void judge(std::span<Source> all) const {
        price(all, m_all);
        for (auto& s : all) {
            const double there = m_window.detail(m_hole + s.offset);
            if (s.cost >= kNever || m_detail < 0 || there < 0) continue;
            const double l = std::log((there + 4e-6) / (m_detail + 4e-6));
            s.cost *= float(1 + 0.15 * l * l);
        }
    }

  private:
    struct Sampled {
        std::vector<RingSample> samples;
        float weight = 0;  ///< of all

        void add(const RingSample& s) { samples.push_back(s), weight += s.weight[0]; }
    };

    /// An offset that may be priced, and the share of the ring that must not be read there.
    struct Possible {
        Source* source = nullptr;
        float masked = 0;
    };

    /// Two at a time.
    void price(std::span<Source> all, const Sampled& ring) const {
        Possible waiting;
        for (auto& s : all) {
            Possible next{&s};
            if (!allows(s.offset, next.masked))
                s.cost = kNever;
            else if (!waiting.source)
                waiting = next;
            else
                pricePair(waiting, next, ring), waiting = {};
        }
        if (waiting.source) pricePair(waiting, waiting, ring);
    }

    /// False where a source would reach out of the window or what must not be copied is in it.
    bool allows(Point o, float& masked) const {
        const Rect moved = m_ring.box + o;
        if (moved.x < 0 || moved.y < 0 || moved.br().x > m_window.width() ||
            moved.br().y > m_window.height())
            return false;
        if (m_window.forbiddenIn(moved) == 0) return true;
        const int shift = shiftOf(o);
        const uchar* f = m_window.forbiddenData();
        for (const int p : m_piece)
            if (f[p + shift]) return false;
        size_t count = 0;
        for (const int p : m_index) count += f[p + shift];
        masked = float(count) / float(m_index.size());
        return count * 20 <= m_index.size();
    }

    void pricePair(const Possible& a, const Possible& b, const Sampled& ring) const {
        RingSums sums[2];
        addUp(ring.samples, m_window.data(), {shiftOf(a.source->offset), shiftOf(b.source->offset)},
              sums);
        a.source->cost = costOf(sums[0], a.masked, ring);
        b.source->cost = costOf(sums[1], b.masked, ring);
    }

    [[nodiscard]] float costOf(const RingSums& s, float masked, const Sampled& ring) const {
        const float scale = m_all.weight / ring.weight;
        const Vec4 mean = s.sum * s.sum * splat(1 / ring.weight);
        const Vec4 plane = (s.across * s.across + s.down * s.down) * splat(scale);
        const Vec4 rest = s.square - mean * splat(1 - kKeepMean) - plane * splat(1 - kKeepPlane);
        return std::max(0.0f, sum3(rest)) / ring.weight * (1 + 2 * masked) + 1e-7f + masked * 1e-3f;
    }

    [[nodiscard]] int shiftOf(Point o) const { return o.y * m_window.width() + o.x; }

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

bool possible(const Source& s) {
    return s.cost < kNever;
}

/// The first `count` possible ones that lie more than `apart` px from those before them.
std::vector<Source> firstApart(const std::vector<Source>& sorted, int apart, size_t count) {
    std::vector<Source> out;
    for (const auto& s : sorted) {
        if (!possible(s) || out.size() >= count) break;
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
    std::vector<Source> coarse, row;
    for (const int y : steps) {
        if (stop.stop_requested()) return {};
        row.clear();
        for (const int x : steps)
            if (std::max(std::abs(x), std::abs(y)) >= reach.nearest) row.push_back({{x, y}});
        judge.quick(row);
        std::ranges::copy_if(row, std::back_inserter(coarse), possible);
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
        std::array<Source, 9> near;
        for (int i = 0; i < 9; ++i) near[size_t(i)].offset = s.offset + Point(i % 3 - 1, i / 3 - 1);
        judge.quick(near);
        s = *std::ranges::min_element(near, cheaper);
    }
    std::erase_if(coarse, std::not_fn(possible));
    judge.judge(coarse);
    std::stable_sort(coarse.begin(), coarse.end(), cheaper);
    return firstApart(coarse, reach.apart, reach.count);
}

}  // namespace gq::mend
