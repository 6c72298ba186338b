#include "core/pixels/quantile.h"

#include <algorithm>

namespace gq {

float quantile(std::vector<float> values, double share) {
    if (values.empty()) return 0;
    const auto last = std::ptrdiff_t(values.size()) - 1;
    const auto at = values.begin() + std::min(last, std::ptrdiff_t(share * double(values.size())));
    std::nth_element(values.begin(), at, values.end());
    return *at;
}

float medianOf(std::vector<float> values) {
    return quantile(std::move(values), 0.5);
}

}  // namespace gq
