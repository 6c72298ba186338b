#pragma once
#include <vector>

#include "core/pixels/region.h"

namespace gq::carry {

/// What frames say of the same places, added up one frame at a time, so that memory does not grow
/// with their number.
///
/// Each frame's residual in noise units is drawn in to [-2, 4]. Their sum, weighted by the inverse
/// of a frame's noise there, over the root of the sum of squared weights is the agreement (weighted
/// Z: Liptak, 1958). A picture's own content differs from frame to frame and averages out; dust
/// does not. How well a place is agreed on weighs that, how much the frames share there over what
/// they differ by, in how many it shows, and its depth.
///
/// Places of which fewer than three frames have a say are not told of.
///
/// Pictures are no noise: few frames of much texture agree by chance. How well they do so is seen
/// in the same sums with each frame moved by another offset along its rows, so that horizons still
/// meet (a permutation test: Fisher, 1935), and places must agree better than that.
class Agreement {
  public:
    /// Frames that must have a say; a little less than three tell as much.
    static constexpr float kFewest = 2.5f;

    /// A place at which frames agree, in pixels of the residual.
    struct Place {
        Region region;
        float peak = 0;   ///< agreement, noise units
        float depth = 0;  ///< mean log light held back, calm frames counting most
        float seen = 0;   ///< frames in which it shows
        float score = 0;  ///< how well they agree; 1 = enough where chance does no better
    };

    /// `z`: light held back in noise units; `noise`: that noise, of every second pixel of every
    /// second row; `news`: 0..1, how much the frame's say counts there, since it shows what no
    /// other does, empty = in full, otherwise of the size of `z`. CV_32F.
    void add(const ImageF& z, const ImageF& noise, const ImageF& news = {});
    /// What the frames say of a place that is known beforehand.
    struct Weighed {
        float depth = 0;   ///< mean log light held back there, over what is usual around
        float spread = 0;  ///< of such means around it; 0 = it cannot be told
    };
    /// `region` in pixels of the residual.
    [[nodiscard]] Weighed weighed(const Region& region) const;
    /// The places that can be told from chance, as long as `falsePlaces` are borne in the mean.
    [[nodiscard]] std::vector<Place> places(double falsePlaces) const;

  private:
    /// Sums over the frames, by weights of 1 / noise^2.
    struct Sums {
        ImageF held, weight, squares;  ///< of log light held back, of 1, of its square
        ImageF seen;                   ///< frames in which it shows
        ImageF silent;                 ///< frames that have no say; empty = none
        int frames = 0;
        void add(const ImageF& z, const ImageF& noise, const ImageF& news, const Point& offset);
        [[nodiscard]] std::vector<Place> places() const;
    };
    Sums m_asSeen, m_moved;  ///< `m_moved`: for what chance does
};

}  // namespace gq::carry
