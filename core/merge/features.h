#pragma once
#include <opencv2/features2d.hpp>
#include <vector>

#include "core/pixels/image.h"

namespace gq::merge {

/// What a picture is recognised by: at most 3000 places of it.
struct Features {
    std::vector<cv::KeyPoint> points;
    cv::Mat descriptors;
};

inline constexpr double kUsualContrast = 0.04;  ///< of a feature

/// Features of `contrast` and more. Threads: re-entrant.
/// Source   Lowe, IJCV 60(2), 2004; OpenCV.
[[nodiscard]] Features featuresOf(const Image8& picture, double contrast = kUsualContrast);

/// Places of two pictures that look alike, and like no others (Lowe's ratio), pair by pair. Empty
/// where a picture has too few.
struct Matches {
    std::vector<PointF> from, to;
};
[[nodiscard]] Matches matched(const Features& from, const Features& to);

}  // namespace gq::merge
