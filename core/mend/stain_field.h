#pragma once
#include "core/mend/window.h"

namespace gq::mend {

inline constexpr int kRimReach = 32;  ///< px outside the outline in which a stain's rim is sought

/// What a stain multiplies: light, or in faded places what white has over it.
[[nodiscard]] float multiplied(float value, bool faded);
/// The value of which `multiplied` is made.
[[nodiscard]] float unmultiplied(float quantity, bool faded);

/// A neighbourhood in which a stain adds to what is there.
struct StainField {
    cv::Mat logs;        ///< CV_32FC3, of what the stain multiplies
    cv::Mat distance;    ///< CV_32F, to the outline, positive inside
    cv::Mat known;       ///< CV_32F, 0 under other blemishes
    bool faded = false;  ///< the logs are of what white has over the picture
    cv::Point2d middle;  ///< of the stain

    /// The sector of `count` in which a pixel lies, as seen from the middle.
    [[nodiscard]] size_t sectorOf(int x, int y, size_t count) const;
};

/// `inside`: the outline's pixels, like the window; the window has no hole there.
[[nodiscard]] StainField stainField(const Window& window, const Mask& inside, bool faded);

/// One plane as three equal ones.
[[nodiscard]] cv::Mat three(const cv::Mat& plane);

/// Gaussian mean of the pixels that count; `share` receives the weight they had.
[[nodiscard]] cv::Mat maskedBlur(const cv::Mat& values, const cv::Mat& weight, double sigma,
                                 cv::Mat& share);

}  // namespace gq::mend
