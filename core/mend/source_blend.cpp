#include "core/mend/source_blend.h"

#include <cmath>

namespace gq::mend {
namespace {

constexpr double kDamping = 0.5;
constexpr size_t kRingPoints = 120;

/// A source's pixel for a place, its coordinates kept inside the window.
const Vec4& moved(const Window& w, const Point& p, const Point& offset) {
    return w.at(std::clamp(p.x + offset.x, 0, w.width() - 1),
                std::clamp(p.y + offset.y, 0, w.height() - 1));
}

/// Ring differences of a source with their weighted mean and plane taken out.
std::vector<Vec4> departure(const Window& w, const Ring& ring, Point o) {
    const size_t n = ring.places.size();
    std::vector<Vec4> d(n);
    cv::Matx33f m = cv::Matx33f::eye() * 1e-6f;
    cv::Matx33f v = cv::Matx33f::zeros();
    const auto base = [&](const Point& p) {
        return cv::Vec3f(1, float(p.x - ring.box.x) / float(ring.box.width),
                         float(p.y - ring.box.y) / float(ring.box.height));
    };
    for (size_t i = 0; i < n; ++i) {
        const Point& p = ring.places[i];
        d[i] = moved(w, p, o) - w.at(p.x, p.y);
        const cv::Vec3f b = base(p);
        m += b * b.t() * ring.weights[i];
        for (int c = 0; c < 3; ++c)
            for (int k = 0; k < 3; ++k) v(k, c) += b[k] * ring.weights[i] * d[i][c];
    }
    const cv::Matx33f fit = m.solve(v, cv::DECOMP_CHOLESKY);
    for (size_t i = 0; i < n; ++i) {
        const cv::Vec3f b = base(ring.places[i]);
        const float k = std::sqrt(ring.weights[i]);
        for (int c = 0; c < 3; ++c)
            d[i][c] = k * (d[i][c] - b[0] * fit(0, c) - b[1] * fit(1, c) - b[2] * fit(2, c));
    }
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

std::vector<float> sharesOf(const Window& w, const Ring& whole,
                            const std::vector<Source>& sources) {
    const int k = int(sources.size());
    if (k == 1) return {1};
    const Ring ring = thinned(whole);
    std::vector<std::vector<Vec4>> d;
    for (const auto& s : sources) d.push_back(departure(w, ring, s.offset));
    cv::Mat gram(k, k, CV_64F), share;
    for (int i = 0; i < k; ++i)
        for (int j = 0; j <= i; ++j) {
            Vec4 sum{};
            for (size_t p = 0; p < ring.places.size(); ++p)
                sum += d[size_t(i)][p] * d[size_t(j)][p];
            gram.at<double>(i, j) = gram.at<double>(j, i) = double(sum3(sum));
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
    std::vector<Vec4> allRim(rim.size(), Vec4{}), firstRim, oneRim(rim.size());
    Blend out{std::vector<Vec4>(piece.size(), Vec4{}), {}};
    // The membrane is linear: the differences are added up first and spread once.
    for (size_t j = 0; j < sources.size(); ++j) {
        const Point o = sources[j].offset;
        for (size_t i = 0; i < rim.size(); ++i)
            oneRim[i] = w.at(rim[i].x, rim[i].y) - moved(w, rim[i], o);
        winsorise(oneRim);
        for (size_t i = 0; i < rim.size(); ++i) allRim[i] += splat(shares[j]) * oneRim[i];
        for (size_t i = 0; i < piece.size(); ++i)
            out.together[i] += splat(shares[j]) * w.at(piece[i].x + o.x, piece[i].y + o.y);
        if (j == 0) firstRim = oneRim;
    }
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
