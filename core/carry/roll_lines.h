#pragma once
#include <map>
#include <string>
#include <vector>

#include "core/carry/carry.h"
#include "core/series/series.h"

namespace gq::carry {

/// By frame, long scratches of the polarity that dust does not have there: they may as well lie in
/// a scene that several frames show, and count only along the longer side and in half of the
/// frames.
using Doubtful = std::map<std::string, std::vector<find::Finding>>;

/// Grit in a camera's gate or a scanner's path scratches a whole roll at one place: long scratches
/// of one polarity, whole or in pieces, that lie at the same distance from the film's edge in at
/// least three frames, and a third of those searched, are one line of the roll. Its parts become
/// surer and are tied together (`charted`), and the line is one finding a frame with the same place
/// in each: a frame in which it was not found, or in pieces, but shows (`lineIn`) gets it whole.
/// `frames` are those searched, of one size; without `pixels` nothing is added. Threads:
/// re-entrant.
[[nodiscard]] series::Series withRollLines(const series::Series& series,
                                           const std::vector<std::string>& frames,
                                           const PixelSource& pixels = {},
                                           const Doubtful& doubtful = {},
                                           std::stop_token stop = {});

/// What a roll's line is in one frame.
struct RollPart {
    std::string frame;
    series::Id finding = 0;
    bool operator==(const RollPart&) const = default;
};
using RollLine = std::vector<RollPart>;  ///< frame by frame

/// The lines that were tied together over the roll. Cost: the pixels of all long scratches.
[[nodiscard]] std::vector<RollLine> rollLines(const series::Series& series);
/// The one a finding belongs to: what becomes of it is settled once. Only the finding itself if it
/// is not of such a line.
[[nodiscard]] RollLine rollLineOf(const series::Series& series, const std::string& frame,
                                  series::Id finding);

}  // namespace gq::carry
