#pragma once
#include <vector>

#include "core/pixels/image.h"

namespace gq {

/// A picture and its halves, quarters and so on (`halved`), made once for all who look at it
/// coarsely. Any depth and channels. Threads: parallel inside; many may read one.
class Scales {
  public:
    /// Not explicit: where scales are asked for, a picture will do.
    Scales(const Image& pixels);

    [[nodiscard]] bool empty() const { return m_levels.front().empty(); }
    /// The picture's own.
    [[nodiscard]] Size size() const { return m_levels.front().size(); }
    /// Halved `level` times; the smallest, of some 30 px, if it can't be as often.
    [[nodiscard]] const Image& at(int level) const;

  private:
    std::vector<Image> m_levels;
};

}  // namespace gq
