#include "core/mend/unshade.h"

#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"

namespace gq::mend {
namespace {

constexpr int kReach = 12;         ///< px outside the outline in which the penumbra ends
constexpr int kRing = 10;          ///< width of the surroundings beyond that
constexpr float kDarkest = 0.12f;  ///< less light than this is as good as none

float logLight(const Vec4& v) {
    float light = 0;
    for (int c = 0; c < 3; ++c)
        light +=
            kLumaWeights[c] * toLinear(ushort(std::lround(std::clamp(v[c], 0.0f, 1.0f) * 65535)));
    return std::log(light + 0.002f);
}

/// A plane through the ring.
struct Plane {
    cv::Vec3d fit;
    [[nodiscard]] double at(int x, int y) const { return fit[0] + fit[1] * x + fit[2] * y; }
};

/// Root mean square of what the same outline would seem to hold back if it lay beside: the mean
/// inside it less that of a ring, at eight places around. 0 where none of them is clean.
double unevenness(const cv::Mat& logs, const Mask& inside) {
    Mask ring;
    const Mask wide =
        cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * kReach + 1, 2 * kReach + 1});
    cv::dilate(inside, ring, wide);
    ring &= ~inside;
    const Rect in = cv::boundingRect(inside), all(0, 0, logs.cols, logs.rows);
    const Rect box =
        Rect(in.x - kReach, in.y - kReach, in.width + 2 * kReach, in.height + 2 * kReach) & all;
    double square = 0;
    int n = 0;
    for (int i = 0; i < 8; ++i) {
        const double turn = i * 0.7854;
        const Point shift(int(std::cos(turn) * (in.width + 4)),
                          int(std::sin(turn) * (in.height + 4)));
        const Rect there = box + shift;
        if ((there & all) != there) continue;
        const double difference =
            cv::mean(logs(there), inside(box))[0] - cv::mean(logs(there), ring(box))[0];
        square += difference * difference;
        ++n;
    }
    return n ? std::sqrt(square / n) : 0;
}

}  // namespace

Result<Shade> measureShade(const Window& w, const Mask& inside, std::stop_token stop) {
    cv::Mat in, out, logs(inside.size(), CV_32F);
    cv::distanceTransform(inside, in, cv::DIST_L2, 5);
    cv::distanceTransform(inside == 0, out, cv::DIST_L2, 5);
    const cv::Mat distance = in - out;
    double deepest = 0;
    cv::minMaxLoc(in, nullptr, &deepest);
    cv::Matx33d m = cv::Matx33d::eye() * 1e-9;
    cv::Vec3d v;
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x) {
            const float l = logs.at<float>(y, x) = logLight(w.at(x, y));
            const float d = -distance.at<float>(y, x);
            if (d < kReach || d > kReach + kRing || w.forbidden(x, y)) continue;
            const cv::Vec3d base(1, x, y);
            m += base * base.t();
            v += base * double(l);
        }
    if (stop.stop_requested()) return cancelled();
    const Plane plane{m.solve(v, cv::DECOMP_CHOLESKY)};
    const size_t bands = size_t(kReach) + size_t(std::ceil(deepest)) + 1;
    std::vector<double> sum(bands, 0), count(bands, 0);
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x) {
            const double at = double(distance.at<float>(y, x)) + kReach;
            if (at < 0 || at >= double(bands) || w.forbidden(x, y)) continue;
            sum[size_t(at)] += double(logs.at<float>(y, x)) - plane.at(x, y);
            count[size_t(at)] += 1;
        }
    // From outside inwards: means of three bands, never rising, never above zero; drawn in as far
    // as the picture's own unevenness could pass for a shadow.
    const double chance = unevenness(logs, inside);
    std::vector<float> profile(bands, 0);
    double least = 0;
    for (size_t k = 1; k < bands; ++k) {
        double t = 0, n = 1e-9;
        for (size_t j = k - 1; j <= std::min(k + 1, bands - 1); ++j) t += sum[j], n += count[j];
        least = std::min(least, t / n);
        profile[k] = float(least);
    }
    const double trust = least < 0 ? std::max(0.0, 1 - chance * chance / (least * least)) : 0;
    for (float& g : profile) g *= float(trust);
    least *= trust;
    Shade shade;
    shade.gain.create(inside.size(), CV_32F);
    for (int y = 0; y < logs.rows; ++y)
        for (int x = 0; x < logs.cols; ++x) {
            const float at =
                std::clamp(distance.at<float>(y, x) + kReach, 0.0f, float(bands) - 1.001f);
            const auto i = size_t(at);
            const float t = at - float(i), g = profile[i] * (1 - t) + profile[i + 1] * t;
            shade.gain.at<float>(y, x) = std::exp(g);
        }
    shade.fits = std::exp(least) > double(kDarkest);
    return shade;
}

}  // namespace gq::mend
