#include "core/find/candidates.h"

#include <opencv2/imgproc.hpp>

#include "core/pixels/parallel.h"

namespace gq::find {
namespace {

constexpr float kLow = 2.0f, kHigh = 3.2f;

struct Peak {
    float z = 0, residual = 0;
};

std::vector<Peak> peaksOf(const cv::Mat& labels, int count, const Residual& r, float sign) {
    std::vector<Peak> peaks(size_t(count), Peak{});
    for (int y = 0; y < labels.rows; ++y) {
        const auto* l = labels.ptr<int>(y);
        const auto *v = r.residual.ptr<float>(y), *n = r.noise.ptr<float>(y);
        for (int x = 0; x < labels.cols; ++x) {
            if (l[x] == 0) continue;
            auto& p = peaks[size_t(l[x])];
            const float s = sign * v[x];
            p.z = std::max(p.z, s / n[x]);
            p.residual = std::max(p.residual, s);
        }
    }
    return peaks;
}

}  // namespace

Candidates candidatesOf(const Residual& r, Polarity polarity, Origin origin, float easing) {
    const float sign = polarity == Polarity::Dark ? -1.0f : 1.0f;
    const float least = (origin == Origin::Sensor ? 0.010f : 0.035f) * easing;
    const float low = kLow * easing, high = kHigh * easing;
    Mask above(r.residual.size(), CV_8U);
    forRows(above.rows, [&](int y) {
        const auto *v = r.residual.ptr<float>(y), *n = r.noise.ptr<float>(y);
        auto* m = above.ptr<uchar>(y);
        for (int x = 0; x < above.cols; ++x) m[x] = sign * v[x] > low * n[x] ? 255 : 0;
    });
    cv::Mat labels, stats, centroids;
    int count = cv::connectedComponentsWithStats(above, labels, stats, centroids, 8, CV_32S);
    auto peaks = peaksOf(labels, count, r, sign);
    const auto tooLarge = [&](int i) {
        return stats.at<int>(i, cv::CC_STAT_AREA) > 0.02 * double(labels.total());
    };
    std::vector<float> keepAbove(size_t(count), 1e9f);  // a pixel must exceed this to stay
    for (int i = 1; i < count; ++i)
        if (peaks[size_t(i)].z > high && peaks[size_t(i)].residual > least && !tooLarge(i))
            keepAbove[size_t(i)] = peaks[size_t(i)].residual / 3;
    forRows(above.rows, [&](int y) {
        const auto* l = labels.ptr<int>(y);
        const auto* v = r.residual.ptr<float>(y);
        auto* m = above.ptr<uchar>(y);
        for (int x = 0; x < above.cols; ++x)
            m[x] = l[x] && sign * v[x] > keepAbove[size_t(l[x])] ? 255 : 0;
    });
    count = cv::connectedComponentsWithStats(above, labels, stats, centroids, 8, CV_32S);
    peaks = peaksOf(labels, count, r, sign);
    const int smallest = r.level == 0 ? 3 : 2;
    std::vector<int> number(size_t(count), 0);
    Candidates out;
    for (int i = 1; i < count; ++i) {
        if (peaks[size_t(i)].z <= 0.8f * high || stats.at<int>(i, cv::CC_STAT_AREA) < smallest)
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
