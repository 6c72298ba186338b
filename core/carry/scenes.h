#pragma once
#include <vector>

#include "core/pixels/frame_geometry.h"
#include "core/pixels/image.h"

namespace gq::carry {

inline constexpr int kSceneSide = 512;  ///< px; of a view's longer side

/// What a frame shows, small: where its tones lie above (1) or below (-1) those around, on the
/// sensor; 0 where they hardly differ. CV_8S.
using SceneView = cv::Mat;

/// `pixels` may be at a smaller size than `frame` tells, which is laid on its sensor.
/// Threads: re-entrant.
[[nodiscard]] SceneView sceneViewOf(const Image& pixels, const FrameGeometry& frame);

/// Which frames of a series show something new. A camera that stands still shows the same scene in
/// all of them (brackets, focus stacks, time lapses): its details lie at the same places as dust
/// does, and of such frames one alone can tell anything of the sensor. What moves in front of it is
/// new again.
class Scenes {
  public:
    /// Where a frame shows what none before it did: 0..1, the view's shape at a quarter of its
    /// size. Views are compared by how many of their tones lie the same way near each place, so
    /// that dust, which is small, does not make two skies alike.
    [[nodiscard]] ImageF newsIn(const SceneView& view) const;
    /// Keeps a view to compare later ones with.
    void add(SceneView view) { m_seen.push_back(std::move(view)); }

  private:
    std::vector<SceneView> m_seen;
};

/// Mean of such a plane at a box of the sensor.
[[nodiscard]] float meanAt(const ImageF& plane, const Rect& box, const Size& sensor);

}  // namespace gq::carry
