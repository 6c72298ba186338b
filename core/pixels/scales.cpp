#include "core/pixels/scales.h"

#include <algorithm>

#include "core/pixels/pyramid.h"

namespace gq {

constexpr int kSmallest = 32;  // px

Scales::Scales(const Image& pixels) : m_levels{pixels} {
    while (std::max(m_levels.back().cols, m_levels.back().rows) > kSmallest &&
           std::min(m_levels.back().cols, m_levels.back().rows) >= 2)
        m_levels.push_back(halved(m_levels.back()));
}

const Image& Scales::at(int level) const {
    return m_levels[size_t(std::clamp(level, 0, int(m_levels.size()) - 1))];
}

}  // namespace gq
