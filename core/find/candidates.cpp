#include "core/find/candidates.h"

#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr float kLow = 2.3f;

struct Peak {
    float z = 0, residual = 0;
};

struct Thresholds {
    float low, high, least;
};

Thresholds thresholdsOf(Origin origin, float strength) {
    if (origin == Origin::Sensor) return {1.9f * strength, 3.0f * strength, 0.007f * strength};
    return {kLow * strength, 4.4f * strength, 0.04f * strength};
}

std::vector<Peak> peaksOf(const cv::Mat& labels, int count, const Residual& r,
                          std::stop_token stop) {
    std::vector<Peak> peaks(size_t(count), Peak{});
    for (int y = 0; y < labels.rows && !stop.stop_requested(); ++y) {
        const auto* l = labels.ptr<int>(y);
        const auto *v = r.toward.ptr<float>(y), *n = r.noise.ptr<float>(y);
        for (int x = 0; x < labels.cols; ++x) {
            if (l[x] == 0) continue;
            auto& p = peaks[size_t(l[x])];
            p.z = std::max(p.z, v[x] / n[x]);
            p.residual = std::max(p.residual, v[x]);
        }
    }
    return peaks;
}

Mask aboveLow(const Residual& r, float low, const ImageF& easing) {
    Mask above(r.toward.size(), CV_8U);
    forRows(above.rows, [&](int y) {
        const auto *v = r.toward.ptr<float>(y), *n = r.noise.ptr<float>(y);
        const auto* e = easing.empty() ? nullptr : easing.ptr<float>(y);
        auto* m = above.ptr<uchar>(y);
        for (int x = 0; x < above.cols; ++x) m[x] = v[x] * (e ? e[x] : 1.0f) > low * n[x] ? 255 : 0;
    });
    return above;
}

}  // namespace

Candidates candidatesOf(const Residual& r, const Level& level, Origin origin, float strength,
                        const ImageF& easing, std::stop_token stop) {
    const Thresholds t = thresholdsOf(origin, strength);
    Mask above = aboveLow(r, t.low, easing);
    cv::Mat labels, stats, centroids;
    if (stop.stop_requested()) return {};
    int count = cv::connectedComponentsWithStats(above, labels, stats, centroids, 8, CV_32S);
    if (stop.stop_requested()) return {};
    auto peaks = peaksOf(labels, count, r, stop);
    if (stop.stop_requested()) return {};
    const auto easingAt = [&](int i) {
        return easing.empty() ? 1.0f
                              : easing.at<float>(int(centroids.at<double>(i, 1)),
                                                 int(centroids.at<double>(i, 0)));
    };
    std::vector<float> keepAbove(size_t(count), 1e9f);  // a pixel must exceed this to stay
    for (int i = 1; i < count; ++i) {
        const auto& p = peaks[size_t(i)];
        const float e = easingAt(i);
        if (p.z * e > t.high && p.residual * e > t.least &&
            stats.at<int>(i, cv::CC_STAT_AREA) < 0.02 * double(labels.total()))
            keepAbove[size_t(i)] = p.residual / 3;
    }
    forRows(above.rows, [&](int y) {
        const auto* l = labels.ptr<int>(y);
        const auto* v = r.toward.ptr<float>(y);
        auto* m = above.ptr<uchar>(y);
        for (int x = 0; x < above.cols; ++x)
            m[x] = l[x] && v[x] > keepAbove[size_t(l[x])] ? 255 : 0;
    });
    if (stop.stop_requested()) return {};
    count = cv::connectedComponentsWithStats(above, labels, stats, centroids, 8, CV_32S);
    if (stop.stop_requested()) return {};
    peaks = peaksOf(labels, count, r, stop);
    if (stop.stop_requested()) return {};
    const int smallest = level.plan.level == 0 ? 3 : 2;
    std::vector<int> number(size_t(count), 0);
    Candidates out;
    for (int i = 1; i < count; ++i) {
        const auto& p = peaks[size_t(i)];
        const float e = easingAt(i);
        if (p.z * e <= 0.8f * t.high || p.residual * e <= t.least ||
            stats.at<int>(i, cv::CC_STAT_AREA) < smallest)
            continue;
        const Rect box(stats.at<int>(i, 0), stats.at<int>(i, 1), stats.at<int>(i, 2),
                       stats.at<int>(i, 3));
        out.regions.push_back({box, Mask(labels(box) == i)});
        number[size_t(i)] = int(out.regions.size());
    }
    forRows(labels.rows, [&](int y) {
        auto* l = labels.ptr<int>(y);
        for (int x = 0; x < labels.cols; ++x) l[x] = number[size_t(l[x])];
    });
    out.labels = labels;
    return out;
}

}  // namespace gq::find
