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
constexpr double kLeast = 0.2, kStep = 0.1;
constexpr int kTries = 15;

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

ImageF productNear(const ImageF& a, const ImageF& b) {
    return near(ImageF(a.mul(b)));
}

}  // namespace

Slopes::Field Slopes::fieldOf(const ImageF& plane) const {
    return {ImageF(slope(plane, 1).mul(m_told)), ImageF(slope(plane, 0).mul(m_told))};
}

Slopes::Slopes(const Departure& seen, const Mask& cover) {
    const Mask told = seen.trust > 0.99f;
    told.convertTo(m_told, CV_32F, 1.0 / 255);
    m_near = near(m_told);
    m_inside = told & cover;
    ImageF logs;
    cv::GaussianBlur(seen.logs, logs, {}, kSmooth);
    m_seen = fieldOf(logs);
    m_xx = productNear(m_seen.x, m_seen.x);
    m_xy = productNear(m_seen.x, m_seen.y);
    m_yy = productNear(m_seen.y, m_seen.y);
}

Slopes::Match Slopes::match(const ImageF& known) const {
    const Field k = fieldOf(known);
    // Covariance of what a strength s leaves: seen - s (cross) + s^2 (own).
    const ImageF crossXX = productNear(m_seen.x, k.x), crossYY = productNear(m_seen.y, k.y),
                 crossXY = productNear(m_seen.x, k.y) + productNear(m_seen.y, k.x),
                 ownXX = productNear(k.x, k.x), ownXY = productNear(k.x, k.y),
                 ownYY = productNear(k.y, k.y);
    std::array<double, kTries> told{}, product;
    product.fill(1);
    const auto takeLogs = [&] {  // one logarithm for many factors
        for (size_t i = 0; i < told.size(); ++i) told[i] -= std::log(product[i]);
        product.fill(1);
    };
    int factors = 0;
    for (int y = 0; y < m_inside.rows; ++y)
        for (int x = 0; x < m_inside.cols; ++x) {
            if (!m_inside.at<uchar>(y, x)) continue;
            const auto at = [&](const ImageF& plane) { return double(plane.at<float>(y, x)); };
            const double flat = double(kFlattest * kFlattest) * at(m_near);
            const double xx = at(m_xx) + flat, xy = at(m_xy), yy = at(m_yy) + flat;
            const double none = 1 / (xx * yy - xy * xy);
            const double cxx = 2 * at(crossXX), cxy = at(crossXY), cyy = 2 * at(crossYY),
                         oxx = at(ownXX), oxy = at(ownXY), oyy = at(ownYY);
            for (size_t i = 0; i < told.size(); ++i) {
                const double s = kLeast + kStep * double(i);
                const double a = xx - s * (cxx - s * oxx), b = xy - s * (cxy - s * oxy),
                             c = yy - s * (cyy - s * oyy);
                product[i] *= std::max((a * c - b * b) * none, 1e-6);
            }
            if (++factors % 16 == 0) takeLogs();
        }
    takeLogs();
    for (auto& t : told) t /= 2 * kCorrelated;
    Match out;
    const size_t best = size_t(std::max_element(told.begin(), told.end()) - told.begin());
    if (told[best] <= 0) return out;
    out.strength = kLeast + kStep * double(best);
    out.told = told[best];
    if (best == 0 || best + 1 == told.size()) return out;  // at the end of what was tried
    const double bend = 2 * told[best] - told[best - 1] - told[best + 1];
    out.strength += kStep * 0.5 * (told[best + 1] - told[best - 1]) / std::max(bend, 1e-9);
    out.error = kStep / std::sqrt(std::max(bend, 1e-9));
    return out;
}

}  // namespace gq::carry
