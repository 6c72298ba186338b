#pragma once
#include <vector>

#include "core/pixels/image.h"

namespace gq::merge {

/// Pictures that lie side by side become one: between two areas fine detail changes over at once,
/// broad brightness over a wide stretch. In float, so that nothing is clipped or rounded on the
/// way; far from the edges of its area a picture keeps its values.
/// Source   Burt, Adelson, A Multiresolution Spline With Application to Image Mosaics, ACM ToG
///          2(4), 1983.
/// Threads  none of its own.
class BandBlender {
  public:
    /// `area` is what all pictures cover together.
    explicit BandBlender(const Rect& area);

    /// `pixels` (three channels, 16 bits) times `gain`, at `corner`; `own` (CV_8U) is where the
    /// result shows it.
    void add(const Image& pixels, double gain, const Mask& own, const Point& corner);

    /// The whole, CV_16UC3 of the area's size, black where nothing lies; `covered` (CV_8U) tells
    /// where something does. Ends the work.
    [[nodiscard]] Image blend(Mask& covered);

  private:
    Rect m_area;                    ///< of the levels: `area`, wider to the right and down
    Size m_size;                    ///< of the result
    std::vector<cv::Mat> m_sums;    ///< weighted bands, CV_32FC3, the finest first
    std::vector<ImageF> m_weights;  ///< CV_32F
};

}  // namespace gq::merge
