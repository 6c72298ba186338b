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

float quantile(std::vector<float> values, double share) {
    if (values.empty()) return 0;
    const auto last = ptrdiff_t(values.size()) - 1;
    const auto at = values.begin() + std::min(last, ptrdiff_t(share * double(values.size())));
    std::nth_element(values.begin(), at, values.end());
    return *at;
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
