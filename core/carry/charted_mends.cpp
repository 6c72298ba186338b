#include "core/carry/charted_mends.h"

#include <algorithm>
#include <opencv2/core.hpp>
#include <set>

#include "core/carry/same_sensor.h"

namespace gq::carry {
namespace {

constexpr float kLeft = 0.05f;  ///< of a finding, in places that would not be divided

}  // namespace

ChartedMends::ChartedMends(const series::Frame& frame, const std::vector<DustChart>& charts) {
    const auto of = std::ranges::find_if(charts, [&](const auto& c) { return c.isOf(frame); });
    if (of == charts.end()) return;
    m_chart = &*of;
    m_laid = laidOn(of->sensor, frame);
    FrameGeometry sensor;
    sensor.stored = of->sensor;
    for (const auto& s : of->spots) m_places.push_back(carried(s.region, sensor, m_laid.geometry));
}

std::optional<ChartedMends::Divided> ChartedMends::of(const series::FindingEntry& found,
                                                      const Image& pixels) const {
    if (!found.charted) return {};
    const Region& region = found.finding.region;
    size_t best = 0;
    int most = 0;
    for (size_t i = 0; i < m_places.size(); ++i)
        if (const int n = overlap(m_places[i], region); n > most) most = n, best = i;
    if (most == 0 || m_chart->spots[best].shadow.empty()) return {};
    auto fit = fitShadow(m_chart->spots[best].shadow, pixels, m_laid);
    if (!fit.divides()) return {};
    int left = 0;
    for (size_t i = 0; i < m_places.size(); ++i)
        if (i != best) left += overlap(without(m_places[i], fit.mend.region), region);
    if (float(left) > kLeft * float(region.area())) return {};
    return Divided{best, std::move(fit.mend)};
}

series::Frame dividedByChart(const series::Frame& frame, const Image& pixels,
                             const std::vector<DustChart>& charts,
                             const std::vector<series::Id>& findings) {
    series::Frame out = frame;
    const ChartedMends charted(frame, charts);
    std::set<size_t> served;
    for (auto& m : out.mends) {
        const auto* found = frame.finding(m.finding);
        if (!found || std::ranges::count(findings, m.finding) == 0) continue;
        if (auto divided = charted.of(*found, pixels);
            divided && served.insert(divided->spot).second)
            m.mend = std::move(divided->mend);
    }
    return out;
}

}  // namespace gq::carry
