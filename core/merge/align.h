#pragma once
#include "core/pixels/image.h"
#include "core/pixels/result.h"

namespace gq::merge {

/// How a frame lies on another of the same scene: maps points of `frame` to points of `onto`.
/// Shapes  16 bits, any sizes. Accuracy: about a pixel of the full size over the picture; `settled`
///         gives less.
/// Errors  BadSetting when they do not show the same scene.
/// Source  features: Lowe, IJCV 60(2), 2004; homography by RANSAC: Fischler, Bolles, 1981; OpenCV.
[[nodiscard]] Result<cv::Matx33d> alignment(const Image& frame, const Image& onto);

/// The part of `frame` that lies under `box` of `onto` by `map`, moved by the last fraction of a
/// pixel so that it fits there best (phase correlation, then gradients). Pixels of `hole` (CV_8U,
/// of the box) are not compared. Errors  BadSetting when what surrounds the hole differs, or the
/// box leaves the frame.
[[nodiscard]] Result<Image> settled(const Image& frame, const cv::Matx33d& map, const Image& onto,
                                    const Rect& box, const Mask& hole);

}  // namespace gq::merge
