#pragma once
#include <optional>

#include "core/carry/chart.h"

namespace gq::carry {

/// What the chart of a frame's sensor, of those of its series, knows of the frame's findings.
/// Of the series' reference nothing: the outlines of its own mends are what is carried, and stay
/// close. Threads: re-entrant. It keeps a reference to `charts`.
class ChartedMends {
  public:
    /// The shadow of one place of the chart, divided out.
    struct Divided {
        size_t spot = 0;
        mend::Mend mend;
    };
    ChartedMends(const series::Series& series, const series::Frame& frame,
                 const std::vector<DustChart>& charts);
    /// For a finding of the chart (`charted`) whose shadow the frame (`pixels`) shows, if dividing
    /// covers all that was found.
    [[nodiscard]] std::optional<Divided> of(const series::FindingEntry& found,
                                            const Image& pixels) const;

  private:
    const DustChart* m_chart = nullptr;
    series::Frame m_laid;  ///< on its sensor
    std::vector<Region> m_places;
};

/// A frame of a series whose mends of these findings divide out the shadow that `ChartedMends`
/// knows there. Each place of the chart serves one mend; all others stay as they are. `pixels` are
/// the frame's own. Threads: re-entrant.
[[nodiscard]] series::Frame dividedByChart(const series::Series& series, const series::Frame& frame,
                                           const Image& pixels,
                                           const std::vector<DustChart>& charts,
                                           const std::vector<series::Id>& findings);

}  // namespace gq::carry
