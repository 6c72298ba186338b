#pragma once
#include <optional>

#include "core/carry/chart.h"

namespace gq::carry {

/// A known chart beside what a later series of the same camera shows.
struct ChartMatch {
    int still = 0;   ///< spots that are where they were
    int moved = 0;   ///< spots that are gone, with a new one of their size near by
    int gone = 0;    ///< spots that the series does not show any more
    int untold = 0;  ///< spots of which the series does not tell; they stay
    int fresh = 0;   ///< spots that the chart does not know
    DustChart now;   ///< what is there now: known spots with what is known of them, and new ones
};

/// `seen` was made with `known` in hand. Errors: Refused (another camera, or a sensor of another
/// size).
[[nodiscard]] Result<ChartMatch> matched(const DustChart& known, const DustChart& seen);

/// In words: "21 of 27 spots are still there, 2 moved, 3 gone, 3 new, 1 not told by these frames".
[[nodiscard]] std::string words(const ChartMatch& match);

/// A known chart as those of a later series' frames that are of its camera show it now.
struct UpToDate {
    DustChart chart;
    std::optional<ChartMatch> match;  ///< without its chart; none: the frames are too few, or too
                                      ///< alike, to tell, and the chart stays as it was
};
/// Shapes   `small` gives pixels as `Consensus::listen` takes them, `whole` a frame's own.
/// Errors   Refused when no frame is of its camera; Cancelled.
[[nodiscard]] Result<UpToDate> broughtUpToDate(DustChart known,
                                               const std::vector<series::FramePtr>& frames,
                                               const PixelSource& small, const PixelSource& whole,
                                               const Progress& progress = {},
                                               std::stop_token stop = {});

/// The chart as edited in the reference frame's ledger: without the places that were left alone
/// there, and with those mended by hand.
[[nodiscard]] DustChart edited(DustChart chart, const series::Frame& reference);

}  // namespace gq::carry
