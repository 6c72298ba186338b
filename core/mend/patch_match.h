#pragma once
#include <stop_token>
#include <vector>

#include "core/mend/vec4.h"
#include "core/pixels/image.h"

namespace gq::mend {

/// One level of a completion: colours with a texture plane, what is unknown, what may be copied.
struct Level {
    cv::Mat values;  ///< CV_32FC4: red, green, blue, steepness
    Mask hole;       ///< to be filled
    Mask forbidden;  ///< never copied from, besides the hole
    Mask barred;     ///< known, but not copied from either; empty = none
    Mask guide;      ///< number of the guide line near here, 0 = none
    ImageF beside;   ///< distance from that line, px, negative to its left; 0 without one
    std::vector<std::vector<PointF>> lines;  ///< the guide lines, from beyond the hole to beyond it
    [[nodiscard]] const Vec4& at(int x, int y) const {
        return *reinterpret_cast<const Vec4*>(values.ptr<cv::Vec4f>(y) + x);
    }
    /// How bright each pixel is, CV_32F.
    [[nodiscard]] cv::Mat tone() const {
        cv::Mat out;
        cv::transform(values, out, cv::Matx14f(0.3f, 0.59f, 0.11f, 0));
        return out;
    }
};

/// For every patch centre near the hole, the centre of the patch most like it.
class PatchMatch {
  public:
    static constexpr int kHalf = 3;  ///< patches are 2 * kHalf + 1 px wide

    /// `level.values` may change between calls of `improve`; nothing else may.
    PatchMatch(const Level& level, std::uint32_t seed);

    [[nodiscard]] bool possible() const { return !m_sources.empty() && !m_targets.empty(); }
    /// Starts from matches at twice the pixel size (empty = at random).
    void start(const cv::Mat& coarser);
    /// Works the distances out anew and lets good matches spread, `rounds` times.
    void improve(int rounds, std::stop_token stop);

    [[nodiscard]] const std::vector<Point>& targets() const { return m_targets; }
    [[nodiscard]] Point match(const Point& p) const {
        const auto& v = m_matches.at<cv::Vec2i>(p);
        return {v[0], v[1]};
    }
    [[nodiscard]] float distance(const Point& p) const { return m_distances.at<float>(p); }
    [[nodiscard]] const cv::Mat& matches() const { return m_matches; }

  private:
    /// A row of pixels along a guide; 0 away from guides.
    [[nodiscard]] int trackOf(int x, int y) const;
    [[nodiscard]] bool allowed(int x, int y, const Point& target, int track) const;
    [[nodiscard]] float distance(const Point& a, int x, int y, float enough) const;
    [[nodiscard]] Point anySource(const Point& p, int salt) const;
    void spread(size_t from, size_t to, bool backwards, int salt);

    const Level& m_level;
    std::uint32_t m_seed;
    Mask m_bad;                    ///< a patch here is not wholly known
    std::vector<Point> m_targets;  ///< row by row
    std::vector<Point> m_sources;
    std::vector<std::vector<Point>> m_tracks;  ///< sources by their track
    cv::Mat m_matches, m_distances, m_inTargets;
    int m_round = 0;
};

}  // namespace gq::mend
