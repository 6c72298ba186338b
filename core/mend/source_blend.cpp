#include "core/mend/source_blend.h"

#include <array>
#include <cmath>
#include <numeric>

namespace gq::mend {
namespace {

constexpr double kDamping = 0.5;
constexpr size_t kRingPoints = 80;

/// A source's pixel for a place, its coordinates kept inside the window.
const Vec4& moved(const Window& w, const Point& p, const Point& offset) {
    return w.at(std::clamp(p.x + offset.x, 0, w.width() - 1),
                std::clamp(p.y + offset.y, 0, w.height() - 1));
}

/// A constant and two ramps over the ring, weighted, each of length one and at right angles to the
/// others (Gram-Schmidt).
using PlaneBasis = std::array<std::vector<float>, 3>;

PlaneBasis planeBasis(const Ring& ring) {
    const size_t n = ring.places.size();
    PlaneBasis out;
    for (size_t k = 0; k < 3; ++k) {
        auto& b = out[k];
        for (size_t i = 0; i < n; ++i) {
            const Point p = ring.places[i] - ring.box.tl();
            b.push_back(std::sqrt(ring.weights[i]) * float(k == 0 ? 1 : k == 1 ? p.x : p.y));
        }
        for (size_t j = 0; j < k; ++j) {
            const float along = std::inner_product(b.begin(), b.end(), out[j].begin(), 0.0f);
            for (size_t i = 0; i < n; ++i) b[i] -= along * out[j][i];
        }
        const float length = std::sqrt(std::inner_product(b.begin(), b.end(), b.begin(), 0.0f));
        for (float& v : b) v *= length > 1e-3f ? 1 / length : 0;
    }
    return out;
}

/// Weighted ring differences of a source with their mean and plane taken out.
std::vector<Vec4> departure(const Window& w, const Ring& ring, const PlaneBasis& basis, Point o) {
    std::vector<Vec4> d(ring.places.size());
    const auto& [level, across, down] = basis;
    Vec4 mean{}, right{}, below{};
    for (size_t i = 0; i < d.size(); ++i) {
        const Point& p = ring.places[i];
        d[i] = splat(std::sqrt(ring.weights[i])) * (moved(w, p, o) - w.at(p.x, p.y));
        mean += splat(level[i]) * d[i];
        right += splat(across[i]) * d[i];
        below += splat(down[i]) * d[i];
    }
    for (size_t i = 0; i < d.size(); ++i)
        d[i] -= splat(level[i]) * mean + splat(across[i]) * right + splat(down[i]) * below;
    return d;
}

/// At most about kRingPoints of a ring, evenly picked: enough to weigh thirty sources by.
Ring thinned(const Ring& ring) {
    const size_t step = std::max<size_t>(1, ring.places.size() / kRingPoints);
    Ring out;
    out.box = ring.box;
    for (size_t i = 0; i < ring.places.size(); i += step) {
        out.places.push_back(ring.places[i]);
        out.weights.push_back(ring.weights[i]);
    }
    return out;
}

/// Sums of products, by lane; four at a time, since each addition waits for the one before.
Vec4 dot(const std::vector<Vec4>& a, const std::vector<Vec4>& b) {
    Vec4 s0{}, s1{}, s2{}, s3{};
    size_t i = 0;
    for (; i + 4 <= a.size(); i += 4) {
        s0 += a[i] * b[i];
        s1 += a[i + 1] * b[i + 1];
        s2 += a[i + 2] * b[i + 2];
        s3 += a[i + 3] * b[i + 3];
    }
    for (; i < a.size(); ++i) s0 += a[i] * b[i];
    return (s0 + s1) + (s2 + s3);
}

std::vector<float> sharesOf(const Window& w, const Ring& whole,
                            const std::vector<Source>& sources) {
    const int k = int(sources.size());
    if (k == 1) return {1};
    const Ring ring = thinned(whole);
    std::vector<std::vector<Vec4>> d;
    const PlaneBasis basis = planeBasis(ring);
    for (const auto& s : sources) d.push_back(departure(w, ring, basis, s.offset));
    cv::Mat gram(k, k, CV_64F), share;
    for (int i = 0; i < k; ++i)
        for (int j = 0; j <= i; ++j) {
            gram.at<double>(i, j) = gram.at<double>(j, i) =
                double(sum3(dot(d[size_t(i)], d[size_t(j)])));
        }
    gram += cv::Mat::eye(k, k, CV_64F) * (kDamping * cv::trace(gram)[0] / k + 1e-9);
    cv::solve(gram, cv::Mat::ones(k, 1, CV_64F), share, cv::DECOMP_CHOLESKY);
    share /= cv::sum(share)[0];
    std::vector<float> out;
    for (int i = 0; i < k; ++i) out.push_back(float(share.at<double>(i)));
    return out;
}

}  // namespace

Blend blended(const Window& w, const Ring& ring, const std::vector<Source>& sources,
              const Membrane& membrane, const std::vector<Point>& piece) {
    const auto shares = sharesOf(w, ring, sources);
    const auto& rim = membrane.rim();
    std::vector<Vec4> allRim(rim.size(), Vec4{}), firstRim;
    Blend out{std::vector<Vec4>(piece.size(), Vec4{}), {}};
    // The membrane is linear: the differences are added up first and spread once.
    for (size_t j = 0; j < sources.size(); ++j) {
        const Point o = sources[j].offset;
        for (size_t i = 0; i < rim.size(); ++i) {
            const Vec4 d = w.at(rim[i].x, rim[i].y) - moved(w, rim[i], o);
            allRim[i] += splat(shares[j]) * d;
            if (j == 0) firstRim.push_back(d);
        }
        for (size_t i = 0; i < piece.size(); ++i)
            out.together[i] += splat(shares[j]) * w.at(piece[i].x + o.x, piece[i].y + o.y);
    }
    winsorise(allRim);
    winsorise(firstRim);
    const auto sheet = membrane.spread(allRim);
    out.best = membrane.spread(firstRim);
    const Point o = sources.front().offset;
    for (size_t i = 0; i < piece.size(); ++i) {
        out.together[i] += sheet[i];
        out.best[i] += w.at(piece[i].x + o.x, piece[i].y + o.y);
    }
    return out;
}

}  // namespace gq::mend
