#include "core/find/broad_marks.h"

#include <algorithm>
#include <cmath>

#include "core/find/survey.h"

namespace gq::find {

int halvingsTo(int side, const Size& picture) {
    int out = 0;
    while (std::max(picture.width, picture.height) >> out >= 2 * side) ++out;
    return out;
}

Coarse coarse(const Scales& picture, int side) {
    const int level = halvingsTo(side, picture.size());
    return {picture.at(level), level};
}

Finding markOf(const Region& small, int level, const Size& picture, Kind kind, Polarity polarity,
               float contrast) {
    Finding f;
    f.kind = kind;
    f.polarity = polarity;
    f.region = fullSize(small, level, picture);
    f.measures.contrast = contrast;
    f.measures.size = std::sqrt(float(f.region.area()) * 1.273f);
    f.measures.length = float(std::max(f.region.box.width, f.region.box.height));
    f.measures.width = float(std::min(f.region.box.width, f.region.box.height));
    return f;
}

}  // namespace gq::find
