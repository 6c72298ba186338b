#include "core/carry/slopes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace gq::carry {
namespace {

constexpr double kSmooth = 1.0;     ///< px, before slopes are taken
constexpr double kFiner = 6;        ///< roots of the covered px over the sigma of clouds left out
constexpr double kCorrelated = 12;  ///< px that tell as much as one in mere grain
constexpr double kWider = 3, kGrainLeft = 0.4;  ///< px; share of grain's slopes left by that blur
constexpr float kFlattest = 2e-4f;              ///< log light a px: below lies rounding
constexpr size_t kFewest = 60;                  ///< px around, to know the usual steepness by
constexpr double kLeast = 0.2, kStep = 0.1;
constexpr int kTries = 15;

/// A Gaussian blur of 4 px and more, worked out at half or a quarter of the size.
ImageF smoothed(const ImageF& plane, double sigma) {
    const int shrink = sigma < 8 ? 2 : 4;
    const Size small((plane.cols + shrink - 1) / shrink, (plane.rows + shrink - 1) / shrink);
    ImageF out;
    cv::resize(plane, out, small, 0, 0, cv::INTER_AREA);
    cv::GaussianBlur(out, out, {}, sigma / shrink);
    cv::resize(out, out, plane.size(), 0, 0, cv::INTER_CUBIC);
    return out;
}

float middleOf(std::vector<float>& values) {
    const auto middle = values.begin() + long(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

ImageF slope(const ImageF& plane, int dx) {
    ImageF out;
    cv::Sobel(plane, out, CV_32F, dx, 1 - dx, 3, 0.125);
    return out;
}

}  // namespace

ImageF Slopes::fineOf(const ImageF& plane) const {
    const ImageF sums = smoothed(plane.mul(m_trust), m_sigma);
    return plane - sums / m_trusted;
}

Slopes::Slopes(const Departure& seen, const Mask& cover)
    : m_trust(seen.trust),
      m_sigma(std::clamp(std::sqrt(double(cv::countNonZero(cover))) / kFiner, 4.0, 16.0)) {
    m_trusted = smoothed(m_trust, m_sigma) + 1e-3f;
    ImageF logs;
    cv::GaussianBlur(fineOf(seen.logs), logs, {}, kSmooth);
    const ImageF gx = slope(logs, 1), gy = slope(logs, 0);
    std::vector<float> around, wide;
    ImageF wideX, wideY;
    cv::GaussianBlur(gx, wideX, {}, kWider);
    cv::GaussianBlur(gy, wideY, {}, kWider);
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x) {
            if (seen.trust.at<float>(y, x) < 0.99f) continue;
            const Place p{x, y, gx.at<float>(y, x), gy.at<float>(y, x)};
            if (cover.at<uchar>(y, x)) {
                m_places.push_back(p);
                continue;
            }
            around.push_back(std::hypot(p.gx, p.gy));
            wide.push_back(std::hypot(wideX.at<float>(y, x), wideY.at<float>(y, x)));
        }
    if (around.size() < kFewest) return;
    m_usual = std::max(middleOf(around), kFlattest);
    const double left = double(middleOf(wide) / m_usual) / kGrainLeft;
    m_correlated = kCorrelated * std::clamp(left * left, 1.0, 6.0);
}

Slopes::Match Slopes::match(const ImageF& known) const {
    Match out;
    if (m_usual <= 0) return out;
    const ImageF fine = fineOf(known), kx = slope(fine, 1), ky = slope(fine, 0);
    const float scale = 1 / (m_usual * m_usual);
    const auto likelihood = [&](double strength) {
        double sum = 0, product = 1;  // one logarithm for many factors
        for (const auto& p : m_places) {
            const float dx = p.gx - float(strength) * kx.at<float>(p.y, p.x),
                        dy = p.gy - float(strength) * ky.at<float>(p.y, p.x);
            product *= 1 + double((dx * dx + dy * dy) * scale);
            if (product < 1e200) continue;
            sum -= std::log(product);
            product = 1;
        }
        return (sum - std::log(product)) / m_correlated;
    };
    std::array<double, kTries + 1> told{};  // the first is of no shadow
    const double none = likelihood(0);
    for (size_t i = 1; i < told.size(); ++i)
        told[i] = likelihood(kLeast + kStep * double(i - 1)) - none;
    const size_t best = size_t(std::max_element(told.begin(), told.end()) - told.begin());
    if (best == 0) return out;
    out.strength = kLeast + kStep * double(best - 1);
    out.told = told[best];
    if (best == 1 || best + 1 == told.size()) return out;  // at the end of what was tried
    const double bend = 2 * told[best] - told[best - 1] - told[best + 1];
    out.strength += kStep * 0.5 * (told[best + 1] - told[best - 1]) / std::max(bend, 1e-9);
    out.error = kStep / std::sqrt(std::max(bend * m_correlated / kCorrelated, 1e-9));
    return out;
}

}  // namespace gq::carry
