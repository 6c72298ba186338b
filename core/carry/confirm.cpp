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
constexpr float kAlone = 0.6f;    ///< belief left when it does not
constexpr float kAdded = 0.6f;    ///< of a place only the chart and a faint dimming tell of
constexpr float kMuch = 0.4f;     ///< of a broad mark's dimming, in the mean of the series

/// A broad mark of the chart as it falls on a frame: ties the frame's own finding to it, or adds
/// one where the frame is dimmed by much of what the series tells.
void tieHaze(const find::Finding& haze, const Region& here, const Image& pixels, size_t before,
             series::Frame& out, std::vector<bool>& shared, series::Id& nextId) {
    const Size size = pixels.size();
    bool met = false;
    for (size_t i = 0; i < before; ++i)
        if (const auto& f = out.findings[i].finding; find::isHaze(f, size) && meets(f.region, here))
            met = shared[i] = true;
    if (met ||
        find::dimmedAt(find::broadViewOf(pixels), here, size) < kMuch * haze.measures.contrast)
        return;
    find::Finding f = haze;
    f.region = here;
    f.confidence = kAdded;
    out.findings.push_back({nextId++, std::move(f), false, true});
}

}  // namespace

series::Frame confirmed(const series::Frame& frame, const Image& pixels, const DustChart& chart,
                        series::Id& nextId, std::stop_token stop) {
    series::Frame out = frame;
    const FrameGeometry geometry = laidOn(chart.sensor, frame).geometry;
    if (frame.camera != chart.camera || geometry.sensorSize() != chart.sensor) return out;
    FrameGeometry sensor;
    sensor.stored = chart.sensor;
    std::vector<bool> shared(out.findings.size(), false);
    const size_t before = out.findings.size();
    for (const auto& spot : chart.spots) {
        if (stop.stop_requested()) return frame;
        const Region here = carried(spot.region, sensor, geometry);
        if (here.empty()) continue;
        bool met = false;
        for (size_t i = 0; i < before; ++i)
            if (meets(out.findings[i].finding.region, here)) met = shared[i] = true;
        for (const auto& m : out.mends) met = met || meets(m.mend.region, here);
        if (met) continue;
        const Visibility v = visibilityOf(pixels, here);
        if (!shows(v)) continue;
        find::Finding f;
        f.region = here;
        f.kind = find::Kind::Shadow;
        f.confidence = kAdded;
        f.measures.contrast = v.depth;
        f.measures.noise = v.busy;
        f.measures.peak = v.significance;
        f.measures.size = std::sqrt(float(here.area()) * 1.273f);
        f.measures.length = float(std::max(here.box.width, here.box.height));
        f.measures.width = float(std::min(here.box.width, here.box.height));
        out.findings.push_back({nextId++, std::move(f), false, true});
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
        if (shared[i])
            p = 1 - (1 - p) * kShared;
        else if (chart.tellsOf(carried(e.finding.region, geometry, sensor).box))
            p *= kAlone;
    }
    return out;
}

}  // namespace gq::carry
