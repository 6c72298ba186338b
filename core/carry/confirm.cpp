#include "core/carry/confirm.h"

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>

#include "core/carry/same_sensor.h"
#include "core/carry/visibility.h"
#include "core/series/lookup.h"

namespace gq::carry {
namespace {

constexpr float kShared = 0.15f;  ///< doubt left when the series shows the same place
constexpr float kAlone = 0.6f;    ///< belief left when it does not, at most,
constexpr float kOdds = 1.5f, kLeastOdds = 0.1f;  ///< and of the odds, over the frames that tell
constexpr float kAdded = 0.6f;    ///< of a place only the chart and a faint dimming tell of
constexpr float kDoubted = 0.4f;  ///< of one that is dimmed by more than the chart tells
constexpr float kMuch = 0.4f;     ///< of the dimming that the series tells, in its mean
constexpr float kMost = 2.0f;     ///< of it; what dims a frame by more is its picture
constexpr float kWithin = 0.5f;   ///< of a finding in the chart's places, if it is what they are

/// A broad mark of the chart as it falls on a frame: ties the frame's own finding to it, or adds
/// one where the frame is dimmed by much of what the series tells.
void tieHaze(const find::Finding& haze, const Region& here, const Image& pixels, size_t before,
             series::Frame& out, std::vector<bool>& shared, series::Id& nextId) {
    const Size size = pixels.size();
    bool met = false;
    for (size_t i = 0; i < before; ++i)
        if (const auto& f = out.findings[i].finding; find::isHaze(f, size) && meets(f.region, here))
            met = shared[i] = true;
    if (met) return;
    const auto view = find::at(find::broadViewOf(pixels), here, size);
    const float told = haze.measures.contrast;
    if (view.dimmed < kMuch * told || view.dimmed > kMost * told || view.restless > kMost * told)
        return;
    find::Finding f = haze;
    f.region = here;
    f.confidence = kAdded;
    out.findings.push_back({nextId++, std::move(f), false, true});
}

/// The chart's places on a frame, with room for what its own opening makes of them.
Mask placesOf(const std::vector<Region>& spots, const Size& picture) {
    Mask out(picture, CV_8U, cv::Scalar(0));
    for (const auto& r : spots)
        if (!r.empty()) paint(out, grown(r, kSlack + int(std::sqrt(float(r.area()))) / 4, picture));
    return out;
}

bool liesIn(const Mask& places, const Region& region) {
    Mask both;
    cv::bitwise_and(places(region.box), region.mask, both);
    return cv::countNonZero(both) > kWithin * float(region.area());
}

/// What a frame shows at a place of the chart; nothing if its shadow does not show there.
std::optional<find::Finding> shownAt(const Region& here, const ChartSpot& spot, const Image& pixels,
                                     const series::Frame& laid) {
    const ShadowFit fit = spot.shadow.empty() ? ShadowFit{} : fitShadow(spot.shadow, pixels, laid);
    if (!spot.shadow.empty() && !fit.untold && !fit.shows) return {};
    const float told = -std::log(1 - std::min(spot.depth, 0.95f));
    Visibility v = visibilityOf(pixels, here);
    if (fit.shows) v = ofDepth(v, told * fit.strength);  // whatever the ground makes of it
    if (!fit.shows && !shows(v)) return {};
    find::Finding f;
    f.region = here;
    f.kind = find::Kind::Shadow;
    f.confidence =
        fit.shows || shows(ofDepth(v, std::min(v.depth, kMost * told))) ? kAdded : kDoubted;
    f.measures.contrast = v.depth;
    f.measures.noise = v.busy;
    f.measures.peak = v.significance;
    f.measures.size = std::sqrt(float(here.area()) * 1.273f);
    f.measures.length = float(std::max(here.box.width, here.box.height));
    f.measures.width = float(std::min(here.box.width, here.box.height));
    return f;
}

}  // namespace

series::Frame confirmed(const series::Frame& frame, const Image& pixels, const DustChart& chart,
                        series::Id& nextId, std::stop_token stop) {
    series::Frame out = frame;
    const series::Frame laid = laidOn(chart.sensor, frame);
    const FrameGeometry& geometry = laid.geometry;
    if (!chart.isOf(frame)) return out;
    FrameGeometry sensor;
    sensor.stored = chart.sensor;
    const size_t before = out.findings.size();
    std::vector<Region> places;
    for (const auto& spot : chart.spots) places.push_back(carried(spot.region, sensor, geometry));
    const Mask all = placesOf(places, geometry.stored);
    std::vector<bool> shared;
    for (const auto& e : out.findings) shared.push_back(liesIn(all, e.finding.region));
    for (size_t k = 0; k < places.size(); ++k) {
        if (stop.stop_requested()) return frame;
        const Region& here = places[k];
        if (here.empty()) continue;
        bool met = false;
        for (size_t i = 0; i < before; ++i)
            met = met || (shared[i] && meets(out.findings[i].finding.region, here));
        for (const auto& m : out.mends) met = met || meets(m.mend.region, here);
        if (met) continue;
        if (auto f = shownAt(here, chart.spots[k], pixels, laid))
            out.findings.push_back({nextId++, std::move(*f), false, true});
    }
    for (const auto& haze : chart.hazes) {
        if (stop.stop_requested()) return frame;
        if (const Region here = carried(haze.region, sensor, geometry); !here.empty())
            tieHaze(haze, here, pixels, before, out, shared, nextId);
    }
    const series::Lookup entries(frame);
    for (size_t i = 0; i < before; ++i) {
        auto& e = out.findings[i];
        e.charted = shared[i];
        // What is mended or left was judged already, and is not judged again at each search.
        if (entries.stateOf(e) != series::State::Open) continue;
        auto& p = e.finding.confidence;
        const Rect place = carried(e.finding.region, geometry, sensor).box;
        if (shared[i]) {
            p = 1 - (1 - p) * kShared;
        } else if (chart.tellsOf(place)) {
            const float odds = std::clamp(kOdds / chart.toldAt(place), kLeastOdds, 1.0f);
            p = std::min(odds * p / (1 - p + odds * p), kAlone * p);
        }
    }
    return out;
}

}  // namespace gq::carry
