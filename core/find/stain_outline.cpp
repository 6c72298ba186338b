#include "core/find/stain_outline.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/find/broad_marks.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr int kAround = 10;        ///< px looked at outside
constexpr float kMiddle = 0.4f;    ///< of the thickness; what lies deeper is the middle
constexpr float kThickest = 60;    ///< px; a rim is no wider than this
constexpr float kThinnest = 2.5f;  ///< px; a thinner mark has no middle

}  // namespace

Outline::Outline(const Region& region, const Size& picture) : m_all({0, 0}, picture) {
    // One more on each side, so that what touches the picture's edge ends there.
    const Rect wide = grown(region, kAround, picture).box;
    m_box = Rect(wide.x - 1, wide.y - 1, wide.width + 2, wide.height + 2);
    Mask in(m_box.size(), CV_8U, cv::Scalar(0));
    region.mask.copyTo(in(Rect(region.box.tl() - m_box.tl(), region.box.size())));
    ImageF inner, outer;
    cv::distanceTransform(in, inner, cv::DIST_L2, 5);
    cv::distanceTransform(255 - in, outer, cv::DIST_L2, 5);
    double thick = 0;
    cv::minMaxLoc(inner, nullptr, &thick);
    m_thick = float(thick);
    m_outward = outer - inner;
}

Crossing Outline::crossing(const ImageF& tint, const ImageF& tone, float depth) const {
    ImageF smooth, gx, gy;
    cv::GaussianBlur(m_outward, smooth, {}, 1.5);
    cv::Sobel(smooth, gx, CV_32F, 1, 0);
    cv::Sobel(smooth, gy, CV_32F, 0, 1);
    const float reach = std::clamp(m_thick * 0.6f, 1.5f, 5.0f);
    std::vector<float> steps, tones;
    for (int y = 0; y < m_outward.rows; ++y)
        for (int x = 0; x < m_outward.cols; ++x) {
            if (m_outward.at<float>(y, x) >= 0 || m_outward.at<float>(y, x) < -1.2f) continue;
            const PointF n(gx.at<float>(y, x), gy.at<float>(y, x));
            const float length = std::hypot(n.x, n.y);
            if (length < 1e-3f) continue;
            const PointF at(float(x + m_box.x), float(y + m_box.y));
            const auto place = [&](float d) {
                return Point(int(std::lround(at.x + n.x / length * d)),
                             int(std::lround(at.y + n.y / length * d)));
            };
            const Point i = place(-reach), o = place(reach + 1);
            if (!m_all.contains(i) || !m_all.contains(o)) continue;
            steps.push_back(tint.at<float>(i) - tint.at<float>(o));
            tones.push_back(tone.at<float>(o) - tone.at<float>(i));
        }
    Crossing out;
    if (steps.size() < 6) return out;
    out.share = float(std::ranges::count_if(steps, [&](float v) { return v > depth / 2; })) /
                float(steps.size());
    out.tone = medianOf(tones);
    for (auto& v : tones) v = std::abs(v - out.tone);
    out.unlike = medianOf(std::move(tones));
    return out;
}

Edge Outline::edge(const ImageF& tint) const {
    Edge out;
    if (m_thick < kThinnest) return out;
    const float deep = std::min(kMiddle * m_thick, kThickest);
    const int within = int(std::ceil(deep)), count = within + kAround;
    std::vector<float> sums(size_t(count), 0.0f), weights = sums;
    double middle = 0;
    int inside = 0;
    for (int y = 0; y < m_outward.rows; ++y)
        for (int x = 0; x < m_outward.cols; ++x) {
            const Point at(x + m_box.x, y + m_box.y);
            if (!m_all.contains(at)) continue;
            const float d = m_outward.at<float>(y, x), t = tint.at<float>(at);
            if (d < -deep) {
                middle += double(t);
                ++inside;
            } else if (const int i = int(std::floor(d)) + within; i >= 0 && i < count) {
                sums[size_t(i)] += t;
                weights[size_t(i)] += 1;
            }
        }
    if (inside == 0) return out;
    for (size_t i = 0; i < sums.size(); ++i) sums[i] /= std::max(weights[i], 1.0f);
    const auto deepest = std::max_element(sums.begin(), sums.begin() + within);
    const float ground = sums.back(), core = float(middle / inside) - ground,
                rise = *deepest - ground;
    if (core <= 0 || rise <= 0) return out;
    out.rim = std::max(rise / core, 1.0f);
    const auto below = [&](float share) {
        return std::find_if(deepest, sums.end(),
                            [&](float v) { return v - ground < share * rise; });
    };
    out.width = 2 * float(std::max<std::ptrdiff_t>(below(0.25f) - below(0.75f), 1));
    return out;
}

}  // namespace gq::find
