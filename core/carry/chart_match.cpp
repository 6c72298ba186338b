#include "core/carry/chart_match.h"

#include <fmt/core.h>

#include <algorithm>
#include <cmath>

namespace gq::carry {
namespace {

constexpr double kStep = 80;       ///< px a grain moves at most without being taken for another
constexpr double kLikeness = 2.0;  ///< of areas
constexpr double kStill = 3;       ///< log odds that what a later series charts too lies there

bool alike(const ChartSpot& a, const ChartSpot& b) {
    const PointF apart = a.region.centre() - b.region.centre();
    const double ratio = double(a.region.area()) / std::max(1, b.region.area());
    return std::hypot(apart.x, apart.y) < kStep && ratio < kLikeness && ratio > 1 / kLikeness;
}

/// What is known of a shadow that a later series charts too.
Shadow stillThere(Shadow shadow, const DustChart& seen) {
    if (!shadow.empty())
        for (const auto* when : {&seen.first, &seen.last})
            shadow.witnesses.push_back({*when, kStill});
    return shadow;
}

tl::unexpected<Error> ofAnotherCamera(const DustChart& known) {
    return fail(Error::Kind::Refused, "the chart is of another camera or sensor size", known.camera,
                "Make a chart of this camera's own frames.");
}

}  // namespace

Result<ChartMatch> matched(const DustChart& known, const DustChart& seen) {
    if (known.camera != seen.camera || known.sensor != seen.sensor) return ofAnotherCamera(known);
    ChartMatch out;
    out.now = seen;
    std::vector<bool> taken(seen.spots.size(), false);
    std::vector<const ChartSpot*> missing;
    for (const auto& spot : known.spots) {
        const Region around = grown(spot.region, kSlack, known.sensor);
        bool still = false;
        for (size_t i = 0; i < seen.spots.size(); ++i)
            if (!taken[i] && meets(around, seen.spots[i].region)) {
                taken[i] = true;
                if (!still) out.now.spots[i].shadow = stillThere(spot.shadow, seen);
                still = true;
            }
        still ? void(++out.still) : missing.push_back(&spot);
    }
    std::erase_if(missing, [&](const ChartSpot* spot) {
        return std::any_of(seen.untold.begin(), seen.untold.end(),
                           [&](const auto& s) { return s.region.box == spot->region.box; });
    });
    out.untold = int(seen.untold.size());
    out.now.spots.insert(out.now.spots.end(), seen.untold.begin(), seen.untold.end());
    for (const auto* spot : missing) {
        bool moved = false;
        for (size_t i = 0; i < seen.spots.size() && !moved; ++i)
            if (!taken[i] && alike(*spot, seen.spots[i])) taken[i] = moved = true;
        ++(moved ? out.moved : out.gone);
    }
    out.fresh = int(std::count(taken.begin(), taken.end(), false));
    return out;
}

std::string words(const ChartMatch& m) {
    auto out = fmt::format("{} of {} spots are still there, {} moved, {} gone, {} new", m.still,
                           m.still + m.moved + m.gone + m.untold, m.moved, m.gone, m.fresh);
    if (m.untold > 0) out += fmt::format(", {} not told by these frames", m.untold);
    return out;
}

Result<UpToDate> broughtUpToDate(DustChart known, const std::vector<series::FramePtr>& frames,
                                 const PixelSource& small, const PixelSource& whole,
                                 const Progress& progress, std::stop_token stop) {
    const series::Frame sensor = asReference(known);
    std::vector<series::FramePtr> own;
    for (const auto& f : frames)
        if (refusal(sensor, *f).empty()) own.push_back(f);
    if (own.empty()) return ofAnotherCamera(known);
    const auto seen = chartOf(sensor, own, small, partOf(progress, 0, 0.5), stop, &known);
    if (stop.stop_requested()) return cancelled();
    if (!seen) return UpToDate{std::move(known), std::nullopt};
    auto match = matched(known, *seen);
    if (!match) return tl::unexpected(match.error());
    auto chart = withShadows(std::move(match->now), own, whole, partOf(progress, 0.5, 1), stop);
    if (!chart) return tl::unexpected(chart.error());
    match->now = {};
    return UpToDate{std::move(*chart), std::move(*match)};
}

DustChart edited(DustChart chart, const series::Frame& reference) {
    const series::Frame frame = laidOn(chart.sensor, reference);
    FrameGeometry sensor;
    sensor.stored = chart.sensor;
    for (const auto& f : frame.findings) {
        if (!f.left) continue;
        const Region there = carried(f.finding.region, frame.geometry, sensor);
        std::erase_if(chart.spots, [&](const auto& s) { return meets(s.region, there); });
    }
    for (const auto& m : frame.mends) {
        if (m.muted || m.finding) continue;
        Region there = carried(m.mend.region, frame.geometry, sensor);
        const bool known =
            there.empty() || std::any_of(chart.spots.begin(), chart.spots.end(),
                                         [&](const auto& s) { return meets(s.region, there); });
        if (!known) chart.spots.push_back({std::move(there), 0, 1, 0, {}});
    }
    return chart;
}

}  // namespace gq::carry
