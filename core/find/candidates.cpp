#include "core/find/candidates.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr float kLow = 2.3f;

struct Thresholds {
    float low, high, least;
};

Thresholds thresholdsOf(Origin origin) {
    if (origin == Origin::Sensor) return {1.9f, 3.0f, 0.007f};
    return {kLow, 4.4f, 0.04f};
}

/// Connected pixels (8 neighbours), the first one first in reading order.
using Piece = std::vector<Point>;

/// Takes the piece that `seed` belongs to out of a mask.
Piece taken(Mask& mask, Point seed) {
    Piece out{seed};
    mask.at<uchar>(seed) = 0;
    for (size_t i = 0; i < out.size(); ++i) {
        const Point p = out[i];
        for (int y = std::max(p.y - 1, 0); y <= std::min(p.y + 1, mask.rows - 1); ++y) {
            auto* row = mask.ptr<uchar>(y);
            for (int x = std::max(p.x - 1, 0); x <= std::min(p.x + 1, mask.cols - 1); ++x)
                if (row[x]) {
                    row[x] = 0;
                    out.emplace_back(x, y);
                }
        }
    }
    std::iter_swap(out.begin(),
                   std::min_element(out.begin(), out.end(), [](const Point& a, const Point& b) {
                       return a.y != b.y ? a.y < b.y : a.x < b.x;
                   }));
    return out;
}

/// A level's residual, whose peaks count more or less by place.
class Field {
  public:
    Field(const Residual& r, float strength, const ImageF& easing)
        : m_r(r), m_strength(strength), m_easing(easing) {}

    [[nodiscard]] float residual(Point p) const { return m_r.toward.at<float>(p); }
    /// True if a piece's strongest pixels exceed both.
    [[nodiscard]] bool exceeds(const Piece& piece, float leastZ, float least) const {
        float z = 0, residual = 0;
        for (const Point& p : piece) {
            const float eased = m_easing.empty() ? 1.0f : m_easing.at<float>(p),
                        counts = m_strength * eased * this->residual(p);
            z = std::max(z, counts / m_r.noiseAt(p));
            residual = std::max(residual, counts);
        }
        return z > leastZ && residual > least;
    }
    [[nodiscard]] float peak(const Piece& piece) const {
        float out = 0;
        for (const Point& p : piece) out = std::max(out, residual(p));
        return out;
    }

    /// 255 above `low`, where it is not shut; those of them that count above `high` are listed.
    Mask above(float low, float high, std::vector<Point>& seeds, std::stop_token stop) const {
        Mask out(m_r.toward.size(), CV_8U);
        std::vector<std::vector<Point>> found(size_t(out.rows), std::vector<Point>());
        const auto look = [&](int y) {
            const auto *v = m_r.toward.ptr<float>(y), *n = m_r.noise.ptr<float>(y / 2);
            const auto* e = m_easing.empty() ? nullptr : m_easing.ptr<float>(y);
            auto* m = out.ptr<uchar>(y);
            for (int x = 0; x < out.cols; ++x) {
                const float counts = m_strength * (e ? e[x] : 1.0f) * v[x];
                m[x] = v[x] > low * n[x / 2] && counts > 0 ? 255 : 0;
                if (m[x] && counts > high * n[x / 2]) found[size_t(y)].emplace_back(x, y);
            }
        };
        if (!forRows(out.rows, look, stop)) return {};
        for (const auto& row : found) seeds.insert(seeds.end(), row.begin(), row.end());
        return out;
    }

  private:
    const Residual& m_r;
    float m_strength;
    const ImageF& m_easing;
};

Region regionOf(const Piece& piece) {
    const Rect box = cv::boundingRect(piece);
    Region out{box, Mask::zeros(box.size(), CV_8U)};
    for (const Point& p : piece) out.mask.at<uchar>(p - box.tl()) = 255;
    return out;
}

}  // namespace

Candidates candidatesOf(const Residual& r, const Level& level, Origin origin, float strength,
                        const ImageF& easing, std::stop_token stop) {
    const Thresholds t = thresholdsOf(origin);
    const Field field(r, strength, easing);
    std::vector<Point> seeds;
    Mask above = field.above(t.low, t.high, seeds, stop);
    const size_t smallest = level.plan.level == 0 ? 3 : 2;
    std::vector<Piece> kept;
    for (const Point& seed : seeds) {
        if (stop.stop_requested()) return {};
        if (!above.at<uchar>(seed)) continue;
        const Piece whole = taken(above, seed);
        if (!field.exceeds(whole, t.high, t.least) ||
            double(whole.size()) >= 0.02 * double(above.total()))
            continue;
        const float enough = field.peak(whole) / 3;
        for (const Point& p : whole) above.at<uchar>(p) = field.residual(p) > enough ? 255 : 0;
        for (const Point& p : whole) {
            if (!above.at<uchar>(p)) continue;
            Piece piece = taken(above, p);
            if (piece.size() >= smallest && field.exceeds(piece, 0.8f * t.high, t.least))
                kept.push_back(std::move(piece));
        }
    }
    std::sort(kept.begin(), kept.end(), [](const Piece& a, const Piece& b) {
        return a[0].y != b[0].y ? a[0].y < b[0].y : a[0].x < b[0].x;
    });
    Candidates out;
    out.labels.create(above.size(), CV_32S);
    forRows(
        above.rows, [&](int y) { out.labels.row(y).setTo(0); }, stop);
    for (const Piece& piece : kept) {
        if (stop.stop_requested()) return {};
        out.regions.push_back(regionOf(piece));
        for (const Point& p : piece) out.labels.at<int>(p) = int(out.regions.size());
    }
    return out;
}

}  // namespace gq::find
