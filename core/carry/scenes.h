#pragma once
#include <vector>

#include "core/pixels/frame_geometry.h"
#include "core/pixels/image.h"

namespace gq::carry {

inline constexpr int kSceneSide = 512;  ///< px; of the finest view's longer side
/// Each view is half as large as the one before: small things are told by the first ones.
inline constexpr int kSceneViews = 4;

/// What a frame shows, small: where its tones lie above (1) or below (-1) those around, on the
/// sensor; 0 where they hardly differ. CV_8S, kSceneViews of them, the finest first.
using SceneView = std::vector<cv::Mat>;

/// `pixels` may be at a smaller size than `frame` tells, which is laid on its sensor.
/// Threads: re-entrant.
[[nodiscard]] SceneView sceneViewOf(const Image& pixels, const FrameGeometry& frame);

/// Where a frame shows what none before it did, for things of each size: 0..1, a quarter of the
/// view's size, by view.
using News = std::vector<ImageF>;
/// The one that tells of things `size` px of the sensor across.
[[nodiscard]] const ImageF& newsOf(const News& news, double size, const Size& sensor);

/// Which frames of a series show something new. A camera that stands still, or is held by hand for
/// some frames in a row, shows the same scene in all of them (brackets, bursts, time lapses): its
/// details lie at the same places as dust does, or near enough, and of such frames one alone can
/// tell anything of the sensor. What moves in front of it is new again.
class Scenes {
  public:
    /// Views are compared by how many of their tones lie the same way near each place, so that
    /// dust, which is small, does not make two skies alike; where one as a whole is another moved
    /// by no more than some times what it tells of, as it lies then. Threads: parallel inside.
    [[nodiscard]] News newsIn(const SceneView& view) const;
    /// Keeps a view to compare later ones with.
    void add(SceneView view) { m_seen.push_back(std::move(view)); }

  private:
    std::vector<SceneView> m_seen;
};

/// Mean of such a plane at a box of the sensor.
[[nodiscard]] float meanAt(const ImageF& plane, const Rect& box, const Size& sensor);

}  // namespace gq::carry
