#include "core/carry/slopes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::carry {
namespace {

constexpr double kSmooth = 1.0;     ///< px, of the frame's tones before slopes are taken
constexpr int kNear = 9;            ///< px a side: slopes so near make a covariance
constexpr float kFlattest = 2e-4f;  ///< log light a px: below lies rounding
constexpr double kCorrelated = 20;  ///< px that tell as much as one: neither grain nor structure
                                    ///< is independent from pixel to pixel
constexpr int kMany = 600;  ///< px of a place; of more every second of every second row will do,
                            ///< since sums near them are what is compared
constexpr double kLeast = 0.2, kStep = 0.1;
constexpr int kTries = 15;
using Told = std::array<double, kTries>;  ///< log likelihoods of the strengths that are tried

enum Product { kCrossXX, kCrossXY, kCrossYY, kOwnXX, kOwnXY, kOwnYY, kProducts };

ImageF slope(const ImageF& plane, int dx) {
    ImageF out;
    cv::Sobel(plane, out, CV_32F, dx, 1 - dx, 3, 0.125);
    return out;
}

ImageF near(const ImageF& plane) {
    ImageF out;
    cv::boxFilter(plane, out, CV_32F, {kNear, kNear});
    return out;
}

double strengthOf(size_t i) {
    return kLeast + kStep * double(i);
}

/// Log of the mean likelihood of all strengths, each weighed by how likely it is to be so.
double evidenceOf(const Told& told) {
    const double most = *std::max_element(told.begin(), told.end());
    double sum = 0, weights = 0;
    for (size_t i = 0; i < told.size(); ++i) {
        const double off = (strengthOf(i) - 1) / double(kDepthDoubt),
                     weight = std::exp(-off * off / 2);
        sum += weight * std::exp(told[i] - most);
        weights += weight;
    }
    return most + std::log(sum / weights);
}

}  // namespace

Slopes::Field Slopes::fieldOf(const ImageF& plane) const {
    const ImageF part = plane(m_box);  // what lies around it counts at its edges
    return {ImageF(slope(part, 1).mul(m_told)), ImageF(slope(part, 0).mul(m_told))};
}

Slopes::Slopes(const Departure& seen, const Mask& cover) {
    const Mask told = seen.trust > 0.99f;
    m_inside = told & cover;
    m_box = grown(cv::boundingRect(m_inside), kNear / 2, told.size());
    m_inside = m_inside(m_box);
    told(m_box).convertTo(m_told, CV_32F, 1.0 / 255);
    m_near = near(m_told);
    ImageF logs;
    cv::GaussianBlur(seen.logs, logs, {}, kSmooth);
    m_seen = fieldOf(logs);
    const auto product = [](const ImageF& a, const ImageF& b) { return near(ImageF(a.mul(b))); };
    m_xx = product(m_seen.x, m_seen.x);
    m_xy = product(m_seen.x, m_seen.y);
    m_yy = product(m_seen.y, m_seen.y);
}

/// Sums near each pixel of the products of what is seen with what is known, and of the latter with
/// itself: all in one plane of six values, which is read and summed once.
ImageF Slopes::productsWith(const Field& k) const {
    ImageF products(m_inside.size(), CV_32FC(kProducts));
    for (int y = 0; y < products.rows; ++y) {
        const auto *sx = m_seen.x.ptr<float>(y), *sy = m_seen.y.ptr<float>(y),
                   *kx = k.x.ptr<float>(y), *ky = k.y.ptr<float>(y);
        auto* p = products.ptr<float>(y);
        for (int x = 0; x < products.cols; ++x, p += kProducts) {
            p[kCrossXX] = 2 * sx[x] * kx[x];
            p[kCrossXY] = sx[x] * ky[x] + sy[x] * kx[x];
            p[kCrossYY] = 2 * sy[x] * ky[x];
            p[kOwnXX] = kx[x] * kx[x];
            p[kOwnXY] = kx[x] * ky[x];
            p[kOwnYY] = ky[x] * ky[x];
        }
    }
    return near(products);
}

Slopes::Match Slopes::match(const ImageF& known) const {
    // Covariance of what a strength s leaves: seen - s (cross) + s^2 (own).
    const ImageF products = productsWith(fieldOf(known));
    Told told{}, product;
    product.fill(1);
    const auto takeLogs = [&] {  // one logarithm for many factors
        for (size_t i = 0; i < told.size(); ++i) told[i] -= std::log(product[i]);
        product.fill(1);
    };
    int factors = 0;
    const int apart = cv::countNonZero(m_inside) > kMany ? 2 : 1;
    for (int y = 0; y < m_inside.rows; y += apart)
        for (int x = 0; x < m_inside.cols; x += apart) {
            if (!m_inside.at<uchar>(y, x)) continue;
            const auto at = [&](const ImageF& plane) { return double(plane.at<float>(y, x)); };
            const double flat = double(kFlattest * kFlattest) * at(m_near);
            const double xx = at(m_xx) + flat, xy = at(m_xy), yy = at(m_yy) + flat;
            const double none = 1 / (xx * yy - xy * xy);
            const auto* p = products.ptr<float>(y) + x * kProducts;
            const auto cxx = double(p[kCrossXX]), cxy = double(p[kCrossXY]),
                       cyy = double(p[kCrossYY]), oxx = double(p[kOwnXX]), oxy = double(p[kOwnXY]),
                       oyy = double(p[kOwnYY]);
            for (size_t i = 0; i < told.size(); ++i) {
                const double s = strengthOf(i);
                const double a = xx - s * (cxx - s * oxx), b = xy - s * (cxy - s * oxy),
                             c = yy - s * (cyy - s * oyy);
                product[i] *= std::max((a * c - b * b) * none, 1e-6);
            }
            if (++factors % 16 == 0) takeLogs();
        }
    takeLogs();
    for (auto& t : told) t *= apart * apart / (2 * kCorrelated);
    Match out;
    out.evidence = evidenceOf(told);
    const size_t best = size_t(std::max_element(told.begin(), told.end()) - told.begin());
    if (told[best] <= 0) return out;
    out.strength = strengthOf(best);
    out.told = told[best];
    if (best == 0 || best + 1 == told.size()) return out;  // at the end of what was tried
    const double bend = 2 * told[best] - told[best - 1] - told[best + 1];
    out.strength += kStep * 0.5 * (told[best + 1] - told[best - 1]) / std::max(bend, 1e-9);
    out.error = kStep / std::sqrt(std::max(bend, 1e-9));
    return out;
}

}  // namespace gq::carry
