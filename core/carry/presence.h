#pragma once
#include <string>
#include <vector>

namespace gq::carry {

/// What one frame told of a grain of dust.
struct Witness {
    std::string taken;  ///< when, as EXIF has it; empty = not told
    double told = 0;    ///< log odds that the grain lies there, by this frame alone
};

/// Log odds, -3..3, that a grain lies on the sensor when a frame is taken, by what all frames told.
/// It may come or go between any two frames, so those near in time count most: a chain of two
/// states, worked out forwards and backwards (Baum, Petrie, Soules, Weiss 1970). Where the frame
/// does not say when it was taken, all count alike; without any witness the odds are those of a
/// charted grain.
[[nodiscard]] double presenceAt(std::vector<Witness> witnesses, const std::string& taken);

}  // namespace gq::carry
