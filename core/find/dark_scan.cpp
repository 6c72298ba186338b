#include "core/find/dark_scan.h"

#include <algorithm>
#include <cmath>

#include "core/pixels/parallel.h"
#include "core/pixels/quantile.h"

namespace gq::find {
namespace {

constexpr double kMiddle = 0.25, kStrongest = 2.6;
constexpr double kDark = 0.12;  ///< medians of coded scans lie above

/// Of a pixel's mean, 0..1.
double medianTone(const Image& scan) {
    constexpr int kEvery = 7;
    const int channels = scan.channels();
    std::vector<float> tones;
    for (int y = 0; y < scan.rows; y += kEvery) {
        const auto* p = scan.ptr<ushort>(y);
        for (int x = 0; x < scan.cols; x += kEvery) {
            float sum = 0;
            for (int c = 0; c < channels; ++c) sum += float(p[x * channels + c]);
            tones.push_back(sum / float(65535 * channels));
        }
    }
    return double(medianOf(std::move(tones)));
}

}  // namespace

Image lifted(const Image& scan) {
    const double tone = medianTone(scan);
    if (tone >= kDark) return scan;
    const double power =
        std::max(std::log(kMiddle) / std::log(std::max(tone, 1e-4)), 1 / kStrongest);
    std::vector<ushort> curve(65536);
    for (size_t v = 0; v < curve.size(); ++v)
        curve[v] = cv::saturate_cast<ushort>(65535 * std::pow(double(v) / 65535, power));
    Image out(scan.size(), scan.type());
    const int n = scan.cols * scan.channels();
    forRows(scan.rows, [&](int y) {
        const auto* p = scan.ptr<ushort>(y);
        auto* o = out.ptr<ushort>(y);
        for (int i = 0; i < n; ++i) o[i] = curve[p[i]];
    });
    return out;
}

}  // namespace gq::find
