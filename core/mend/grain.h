#pragma once
#include <vector>

#include "core/mend/window.h"

namespace gq::mend {

/// Fine detail of values scattered over a piece (less their mean and their blur of sigma 1.5).
[[nodiscard]] std::vector<Vec4> fineDetail(const Window& w, const std::vector<Point>& piece,
                                           std::vector<Vec4> values);

/// Adds to the mean structure of a piece as much of `best`'s fine detail (less its blur of sigma
/// 1.5) as brings the detail's energy to grain^2 times that of the surroundings, at most 1.4 of it.
/// Shapes: `best` and `structure` have one value a pixel of `piece`.
void putGrainBack(const Window& w, const std::vector<Point>& piece, const std::vector<Vec4>& best,
                  float grain, std::vector<Vec4>& structure);

}  // namespace gq::mend
