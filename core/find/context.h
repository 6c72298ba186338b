#pragma once
#include <array>

#include "core/find/candidates.h"

namespace gq::find {

/// Sums over windows around any place of a level, worked out on planes pooled 4 : 1.
class Context {
  public:
    /// Stopped, it holds nothing of use.
    Context(const Level& level, const Residual& r, const Candidates& all, std::stop_token stop);

    static constexpr int kPool = 4;
    static constexpr std::array<int, 3> kWindows{24, 60, 152};        ///< of residuals, px
    static constexpr std::array<int, 3> kCrowdWindows{40, 100, 252};  ///< of neighbours, px

    /// Mean |residual|, its square and steepness over window `w` around a pixel.
    [[nodiscard]] float size(Point at, size_t w) const { return pooled(m_size[w], at); }
    [[nodiscard]] float square(Point at, size_t w) const { return pooled(m_square[w], at); }
    [[nodiscard]] float gradient(Point at, size_t w) const { return pooled(m_gradient[w], at); }
    /// How many candidates lie in window `w`, and the sum of their peaks.
    [[nodiscard]] float count(Point at, size_t w) const { return pooled(m_count[w], at); }
    [[nodiscard]] float crowd(Point at, size_t w) const { return pooled(m_crowd[w], at); }
    /// Strongest pooled |residual| of no candidate within about 18 px.
    [[nodiscard]] float strongestOther(Point at) const { return pooled(m_other, at); }
    [[nodiscard]] float overallNoise() const { return m_overallNoise; }
    [[nodiscard]] const std::vector<float>& peaks() const { return m_peaks; }

  private:
    [[nodiscard]] static float pooled(const ImageF& plane, Point at);
    std::array<ImageF, 3> m_size, m_square, m_count, m_crowd;
    std::array<ImageF, 2> m_gradient;
    ImageF m_other;
    std::vector<float> m_peaks;
    float m_overallNoise = 0;
};

}  // namespace gq::find
