#pragma once
#include <optional>

#include "core/carry/chart.h"

namespace gq::carry {

/// What the chart of a frame's sensor, of `charts`, knows of the frame's findings.
/// Threads: re-entrant. It keeps a reference to `charts`.
class ChartedMends {
  public:
    /// The shadow of one place of the chart, divided out.
    struct Divided {
        size_t spot = 0;
        mend::Mend mend;
    };
    ChartedMends(const series::Frame& frame, const std::vector<DustChart>& charts);
    /// For a finding of the chart (`charted`) whose shadow the frame (`pixels`) shows, if that
    /// leaves no other place of the chart in the finding.
    [[nodiscard]] std::optional<Divided> of(const series::FindingEntry& found,
                                            const Image& pixels) const;

  private:
    const DustChart* m_chart = nullptr;
    series::Frame m_laid;  ///< on its sensor
    std::vector<Region> m_places;
};

/// A frame whose mends of these findings divide out the shadow that `ChartedMends` knows there.
/// Each place of the chart serves one mend; all others stay as they are. `pixels` are the frame's
/// own. Threads: re-entrant.
[[nodiscard]] series::Frame dividedByChart(const series::Frame& frame, const Image& pixels,
                                           const std::vector<DustChart>& charts,
                                           const std::vector<series::Id>& findings);

}  // namespace gq::carry
