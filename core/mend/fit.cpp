#include "core/mend/fit.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/pixels/color.h"
#include "core/pixels/thickness.h"

namespace gq::mend {
namespace {

constexpr int kMost = 14, kLeast = 2, kFar = 10;
constexpr double kCalm = 0.02, kTone = 0.004;

struct Place {
    double x, y, tone;
    float distance;
};

/// How far a halo may reach: a blemish's own thickness, so that a grain's is not looked for in the
/// picture.
int farthestOf(const Region& blemish) {
    return std::clamp(int(std::lround(2 * inscribedRadius(blemish))), kLeast + 1, kMost);
}

std::vector<Place> around(const Image& pixels, const Region& blemish) {
    const Rect box = grown(blemish.box, kMost + kFar, pixels.size());
    cv::Mat outside(box.size(), CV_8U, cv::Scalar(255)), distance;
    outside(Rect(blemish.box.tl() - box.tl(), blemish.box.size())).setTo(0, blemish.mask);
    cv::distanceTransform(outside, distance, cv::DIST_L2, 5);
    const ImageF tone = luma(pixels(box));
    std::vector<Place> out;
    for (int y = 0; y < box.height; ++y)
        for (int x = 0; x < box.width; ++x)
            if (const float d = distance.at<float>(y, x); d > 0 && d <= float(kMost + kFar))
                out.push_back({double(x) / box.width, double(y) / box.height,
                               double(tone.at<float>(y, x)), d});
    return out;
}

/// How far from the outline the first tone lies that is no more to the blemish's side of the plane:
/// beyond that it is the picture that varies. `spread` about the plane.
int haloOf(const std::vector<Place>& places, const cv::Vec3d& plane, double spread) {
    std::array<double, kMost> sum{};
    std::array<int, kMost> count{};
    for (const auto& p : places) {
        const size_t k = size_t(std::ceil(p.distance)) - 1;
        if (k >= kMost) continue;
        sum[k] += p.tone - plane.dot(cv::Vec3d(1, p.x, p.y));
        ++count[k];
    }
    const double sign = sum[0] < 0 ? -1 : 1;  // of what lies next to the outline
    for (size_t k = 0; k < kMost; ++k) {
        const double n = std::max(1, count[k]),
                     allowed = std::clamp(3 * spread / std::sqrt(n), kTone / 2, kTone);
        if (sign * sum[k] / n <= allowed) return int(k);
    }
    return kMost;
}

}  // namespace

Mend fitted(const Image& pixels, const Region& blemish, Edge edge) {
    const auto places = around(pixels, blemish);
    cv::Matx33d m = cv::Matx33d::eye() * 1e-9;
    cv::Vec3d v(0, 0, 0);
    double square = 0;
    int far = 0;
    for (const auto& p : places) {
        if (p.distance <= float(kMost)) continue;
        const cv::Vec3d base(1, p.x, p.y);
        m += base * base.t();
        v += base * p.tone;
        square += p.tone * p.tone;
        ++far;
    }
    Mend mend;
    int grow = kLeast;
    if (far > 20) {
        const cv::Vec3d plane = m.solve(v, cv::DECOMP_CHOLESKY);
        const double spread = std::sqrt(std::max(0.0, (square - plane.dot(v)) / far));
        if (spread < kCalm)
            grow = std::clamp(haloOf(places, plane, spread), kLeast, farthestOf(blemish));
    }
    mend.softness = grow > 4 ? 3 : grow > kLeast || edge == Edge::Soft ? 2 : 1;
    mend.region = grown(blemish, std::max(1, grow - 1), pixels.size());
    mend.method = methodFor(blemish);
    return mend;
}

}  // namespace gq::mend
