#include "core/carry/charted_mends.h"

#include <algorithm>
#include <opencv2/core.hpp>

#include "core/carry/same_sensor.h"

namespace gq::carry {
namespace {

constexpr float kCovered = 0.95f;  ///< of a finding, by what would be divided

int overlap(const Region& a, const Region& b) {
    const Rect both = a.box & b.box;
    if (both.empty()) return 0;
    Mask inside;
    cv::bitwise_and(a.mask(both - a.box.tl()), b.mask(both - b.box.tl()), inside);
    return cv::countNonZero(inside);
}

}  // namespace

series::Frame dividedByChart(const series::Frame& frame, const Image& pixels,
                             const DustChart& chart, const std::vector<series::Id>& findings) {
    series::Frame out = frame;
    const series::Frame laid = laidOn(chart.sensor, frame);
    if (frame.camera != chart.camera || laid.geometry.sensorSize() != chart.sensor) return out;
    FrameGeometry sensor;
    sensor.stored = chart.sensor;
    std::vector<Region> places;
    for (const auto& s : chart.spots) places.push_back(carried(s.region, sensor, laid.geometry));
    std::vector<bool> served(places.size(), false);
    for (auto& m : out.mends) {
        const auto* found = frame.finding(m.finding);
        if (!found || !found->charted || std::ranges::count(findings, m.finding) == 0) continue;
        const Region& region = found->finding.region;
        size_t best = 0;
        int most = 0;
        for (size_t i = 0; i < places.size(); ++i)
            if (const int n = overlap(places[i], region); n > most) most = n, best = i;
        if (most == 0 || served[best] || chart.spots[best].shadow.empty()) continue;
        auto fit = fitShadow(chart.spots[best].shadow, pixels, laid);
        if (!fit.shows || fit.mend.region.empty()) continue;
        if (float(overlap(fit.mend.region, region)) < kCovered * float(region.area())) continue;
        served[best] = true;
        m.mend = std::move(fit.mend);
    }
    return out;
}

}  // namespace gq::carry
