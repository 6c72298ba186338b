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
    [[nodiscard]] float size(Point at, size_t w) const { return m_size.mean(at, kWindows[w]); }
    [[nodiscard]] float square(Point at, size_t w) const { return m_square.mean(at, kWindows[w]); }
    [[nodiscard]] float gradient(Point at, size_t w) const {
        return m_gradient.mean(at, kWindows[w]);
    }
    /// How many candidates lie in window `w`, and the sum of their peaks.
    [[nodiscard]] float count(Point at, size_t w) const {
        return m_count.sum(at, kCrowdWindows[w]);
    }
    [[nodiscard]] float crowd(Point at, size_t w) const {
        return m_crowd.sum(at, kCrowdWindows[w]);
    }
    /// Strongest pooled |residual| of no candidate within about 18 px.
    [[nodiscard]] float strongestOther(Point at) const { return m_other.at<float>(pooled(at)); }
    [[nodiscard]] float overallNoise() const { return m_overallNoise; }
    [[nodiscard]] const std::vector<float>& peaks() const { return m_peaks; }

  private:
    /// Sums of a pooled plane over windows around a pixel.
    class Windows {
      public:
        Windows() = default;
        /// `reflected` beyond the borders, or nothing there.
        Windows(const ImageF& plane, bool reflected);
        [[nodiscard]] float sum(Point at, int window) const;
        [[nodiscard]] float mean(Point at, int window) const;

      private:
        cv::Mat m_sums;  ///< CV_64F: of all above and left of a place
    };
    [[nodiscard]] Point pooled(Point at) const;

    Windows m_size, m_square, m_gradient, m_count, m_crowd;
    ImageF m_other;
    std::vector<float> m_peaks;
    float m_overallNoise = 0;
};

}  // namespace gq::find
