#pragma once
#include <vector>

#include "core/pixels/image.h"
#include "core/pixels/region.h"

/// Made pictures and measures that tests share.
namespace gq::testkit {

/// A smooth bright sky with a gradient and fine noise, 16 bits, colour.
[[nodiscard]] Image sky(const Size& size, std::uint32_t seed = 1);
/// A busy texture (grass-like), 16 bits, colour.
[[nodiscard]] Image grass(const Size& size, std::uint32_t seed = 1);
/// A plain of stones under a sky, 16 bits, colour: corners to align by.
[[nodiscard]] Image stones(const Size& size);
/// The view of a camera turned sideways by `yaw`, of a scene on a plane; `focal` in px.
[[nodiscard]] Image view(const Image& scene, double focal, double yaw, const Size& size);

struct Spot {
    PointF at;
    float radius, depth;  ///< depth: share of linear light held back
};
/// The picture dimmed by soft spots in linear light.
[[nodiscard]] Image dusty(const Image& clean, const std::vector<Spot>& spots);
/// Bright specks, as dust on a negative shows once inverted.
[[nodiscard]] Image specked(const Image& clean, const std::vector<Spot>& spots);

/// Peak signal to noise ratio inside a mask, dB, of 16-bit pictures.
[[nodiscard]] double psnr(const Image& a, const Image& b, const Mask& where);
/// Largest difference of any value outside the mask.
[[nodiscard]] int worstOutside(const Image& a, const Image& b, const Mask& mask);
/// 255 where the spots reach.
[[nodiscard]] Mask maskOf(const std::vector<Spot>& spots, const Size& size, float grow = 1.6f);
[[nodiscard]] bool equal(const cv::Mat& a, const cv::Mat& b);

}  // namespace gq::testkit
