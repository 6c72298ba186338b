#include "core/render/mended_set.h"

#include <algorithm>

#include "core/carry/carry.h"
#include "core/carry/charted_mends.h"
#include "core/render/export.h"
#include "core/render/mend_findings.h"

namespace gq::render {
namespace {

/// The frame on which most shows above the line: it is neither too dark nor out of focus there.
series::FramePtr plainest(const series::Series& series) {
    return *std::ranges::max_element(
        series.frames, {}, [&](const auto& f) { return openAbove(*f, series.plan.line).size(); });
}

/// `frame` with what the others show above the line and it does not.
series::Frame withOthers(const series::Series& series, series::Frame frame, series::Id& nextId) {
    const auto known = [&](const Region& region) {
        return std::ranges::any_of(frame.findings, [&](const auto& e) {
            return series::proposed(e, series.plan.line) && meets(e.finding.region, region);
        });
    };
    for (const auto& other : series.frames) {
        if (other->id == frame.id) continue;
        for (const auto id : openAbove(*other, series.plan.line)) {
            find::Finding found = other->finding(id)->finding;
            found.region = carried(found.region, other->geometry, frame.geometry);
            if (!found.region.empty() && !known(found.region))
                frame.findings.push_back({nextId++, std::move(found)});
        }
    }
    return frame;
}

Result<series::Series> mendedAlike(const series::Series& series, const Progress& progress,
                                   std::stop_token stop) {
    constexpr double kMending = 0.5;  // of the time
    const auto reference = plainest(series);
    const auto pixels = originalPixels(*reference, stop);
    if (!pixels) return tl::unexpected(pixels.error());
    series::Series out = series;
    const series::Frame all = withOthers(series, *reference, out.nextId);
    auto mended = withMends(*pixels, all, openAbove(all, series.plan.line), series.plan.line,
                            out.nextId, nullptr, partOf(progress, 0, kMending), stop);
    if (!mended) return tl::unexpected(mended.error());
    carry::CarryPlan plan{.reference = reference->id,
                          .source = carry::SourceRule::Same,
                          .existing = carry::Existing::Add};
    for (const auto& f : series.frames) plan.targets.push_back(f->id);
    std::vector<Error> faults;
    auto carried = carry::carryAll(out.with(std::move(*mended)), plan, originalPixels, faults,
                                   partOf(progress, kMending, 1), stop);
    if (carried && !faults.empty()) return tl::unexpected(faults.front());
    return carried;
}

Result<series::Series> mendedEach(const series::Series& series,
                                  const std::vector<carry::DustChart>& charts,
                                  const Progress& progress, std::stop_token stop) {
    series::Series out = series;
    const double count = double(series.frames.size());
    for (size_t i = 0; i < series.frames.size(); ++i) {
        const series::Frame& frame = *series.frames[i];
        const auto pixels = originalPixels(frame, stop);
        if (!pixels) return tl::unexpected(pixels.error());
        const auto findings = openAbove(frame, series.plan.line);
        const auto mended =
            withMends(*pixels, frame, findings, series.plan.line, out.nextId, nullptr,
                      partOf(progress, double(i) / count, double(i + 1) / count), stop);
        if (!mended) return tl::unexpected(mended.error());
        out = out.with(carry::dividedByChart(*mended, *pixels, charts, findings));
    }
    return out;
}

}  // namespace

Result<series::Series> mendedSet(const series::Series& set,
                                 const std::vector<carry::DustChart>& charts,
                                 const Progress& progress, std::stop_token stop) {
    return set.frames.front()->purpose == series::Purpose::Panorama
               ? mendedEach(set, charts, progress, stop)
               : mendedAlike(set, progress, stop);
}

}  // namespace gq::render
